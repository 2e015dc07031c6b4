import { type ExchangeRow, findSurroundings, tellStory } from '#core/analysis';
import { bodyAsSent, readBody } from '#core/content';
import { type Exchange, findResponse, type NameValue, PHASES } from '#core/model';
import { rowJson } from '#core/report';
import { formatMs } from '#core/wording';
import { diagnoseFile } from '#server/capture-file';
import { inflateWithZlib } from '#server/inflate';
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
    'Response headers:',
    ...headers(response?.headers ?? []),
    ...exchange.notes.map((note) => `Note: ${note}.`),
  ];
}
