import { type ExchangeRow, findSurroundings, tellStory } from '#core/analysis';
import { type BodyKind, bodyAsSent, MISSING_WORDS, readBody, readPayloadContent, whyNoBody } from '#core/content';
import { type Exchange, findResponse, type NameValue, PHASES, sentPayloadBytes } from '#core/model';
import { rowJson } from '#core/report';
import { formatBytes, formatMs, formatPlural } from '#core/wording';
import { diagnoseFile } from '#server/capture-file';
import { inflateWithZlib } from '#server/inflate';
import { payloadOf } from '#server/variation';
import { getExchange, UsageError, withInput } from '../input';
import { type MaskOptions, maskFor } from '../masked';
import { layOutTable, printExactly, printJson, printLines } from '../output';

export async function show(
  file: string,
  place: string,
  options: MaskOptions & { json?: true; body?: true },
): Promise<void> {
  await withInput(file, (recorded) => {
    const { input, end } = maskFor(recorded, options);
    const exchange = getExchange(input, place);
    if (options.body === true) {
      const body = getBody(exchange);
      if (process.stdout.isTTY) printExactly(new TextDecoder().decode(body));
      else process.stdout.write(body);
      end();
      return;
    }
    const { rows } = diagnoseFile(input);
    const row = rows.find(({ index }) => index === exchange.index);
    if (row === undefined) throw new Error(`exchange ${place} has no row`);
    const story = tellStory(row, findSurroundings(row, rows));
    if (options.json === true) printJson(toJson(row, exchange, story));
    else printLines(toText(row, exchange, story));
    end();
  });
}

function getBody(exchange: Exchange): Uint8Array {
  const response = findResponse(exchange);
  const body = response === undefined ? undefined : bodyAsSent(response, inflateWithZlib);
  if (body === undefined) throw new UsageError(`Exchange ${exchange.index} has no recorded body.`);
  return body;
}

function toJson(row: ExchangeRow, exchange: Exchange, story: string): unknown {
  const response = findResponse(exchange);
  const { kind, decoded, text } = readBody(response, inflateWithZlib);
  const { startedAt, serverAddress, connectionId, priority, messages, notes, request } = exchange;
  return {
    ...rowJson(row),
    story,
    startedAt: startedAt === undefined ? undefined : new Date(startedAt).toISOString(),
    serverAddress,
    connectionId,
    priority,
    request,
    response: response === undefined ? undefined : { ...response, body: undefined },
    body: { kind, byteLength: decoded?.bytes.length, text },
    messages: messages.length === 0 ? undefined : messages,
    notes,
  };
}

function toText(row: ExchangeRow, exchange: Exchange, story: string): string[] {
  const response = findResponse(exchange);
  const headers = (list: readonly NameValue[]): string[] =>
    layOutTable(
      list.map(({ name, value }) => [`  ${name}`, value]),
      new Set(),
    );
  const clock = PHASES.flatMap((name) => {
    const length = row.phases[name];
    return length === undefined ? [] : `${name.replace('Ms', '')} ${formatMs(length)}`;
  });
  return [
    `#${row.index} ${row.method} ${row.url}`,
    story,
    `Timing: start ${formatMs(row.startMs)}, ${clock.length === 0 ? 'no timing breakdown' : clock.join(', ')}, total ${formatMs(row.timeMs)}.`,
    `Kind: ${row.kind} (${row.kindEvidence}). Source: ${row.source} (${row.sourceEvidence}).`,
    'Request headers:',
    ...headers(exchange.request.headers),
    ...payloadLines(exchange),
    'Response headers:',
    ...headers(response?.headers ?? []),
    ...bodyLines(exchange),
    ...exchange.notes.map((note) => `Note: ${note}.`),
  ];
}

const MOST_LINES = 60;
const MOST_CHARS = 2000;

/** The payload of a request as its text; what is known of one that is no text, or that the capture does not hold. */
function payloadLines(exchange: Exchange): string[] {
  const { request } = exchange;
  const sent = sentPayloadBytes(request);
  const { payload } = request;
  const content = payload === undefined ? undefined : readPayloadContent(payload, request.bodyBytes);
  if (content?.type === 'parts')
    return [
      `Request payload, ${payload?.mimeType ?? 'of no recorded type'}, by its parts:`,
      ...layOutTable(
        content.parts.map(({ name, value, fileName }) => [
          `  ${name}`,
          cut(fileName === undefined ? value : `the file ${fileName}`),
        ]),
        new Set(),
      ),
    ];
  if (content?.type !== 'bytes' || (content.bytes.length === 0 && sent !== 0))
    return sent === 0
      ? []
      : [`The request sent ${sent === 'some' ? 'a payload' : formatBytes(sent)} that the capture does not contain.`];
  const title = `Request payload, ${payload?.mimeType || 'of no recorded type'}, ${formatBytes(content.bytes.length)}`;
  const text = payloadOf(exchange);
  if (content.bytes.length === 0) return [];
  if (text === undefined) return [`${title}: no text; --json has it.`];
  const lines = text.split(/\r?\n/);
  const shown = lines.slice(0, MOST_LINES).map((line) => `  ${cut(line)}`);
  const isCut = lines.length > MOST_LINES || lines.some((line) => line.length > MOST_CHARS);
  return [`${title}:`, ...shown, ...(isCut ? ['  (more: --json has all of it)'] : [])];
}

const cut = (text: string): string => (text.length > MOST_CHARS ? `${text.slice(0, MOST_CHARS)}…` : text);

const KIND_WORDS: Record<BodyKind, string> = {
  absent: 'nothing',
  empty: 'nothing',
  image: 'an image',
  json: 'JSON',
  text: 'text',
  binary: 'data that is no text',
};

/** What there is of a response's body, and of what came over a socket or as events. */
function bodyLines(exchange: Exchange): string[] {
  const response = findResponse(exchange);
  if (response === undefined) return [];
  const { decoded, kind } = readBody(response, inflateWithZlib);
  const length = decoded?.bytes.length;
  const body =
    length === undefined
      ? MISSING_WORDS[whyNoBody(exchange)]
      : length === 0
        ? 'Response body: empty.'
        : `Response body: ${formatBytes(length)} of ${KIND_WORDS[kind]}; --body writes it.`;
  const { messages } = exchange;
  return messages.length === 0 ? [body] : [body, `${formatPlural(messages.length, 'message')}: --json has them.`];
}
