import { type ExchangeRow, nameExchange } from '../analysis';
import { base64Of, bodyAsSent, type Inflate, readPayloadContent, textFromBytes } from '../content';
import { essence } from '../har';
import { legName, type Mark, markKey, readMarkKey } from '../marks';
import { type Exchange, findResponse, type NameValue } from '../model';
import { formatBytes, formatMs } from '../wording';
import type { Block } from './document';

// What somebody marked and noted, for whoever reads the report.

/** An exchange that was marked or noted, as it leaves. */
export interface NotedExchange {
  readonly row: ExchangeRow;
  readonly exchange: Exchange;
  readonly note: string;
  readonly isBodyLeftOut: boolean;
}

/** The numbers of the exchanges that are marked or noted. */
export const notedIndexes = (marks: readonly Mark[]): ReadonlySet<number> =>
  new Set(
    marks.flatMap(({ target }) => {
      const read = readMarkKey(target);
      return read?.type === 'exchange' ? [read.index] : [];
    }),
  );

/** So many are told in full. */
const MOST_TOLD = 40;

/** The exchanges that were marked or noted: what was noted, headers, and the body or its picture. */
export function notedBlocks(noted: readonly NotedExchange[], inflate: Inflate): Block[] {
  if (noted.length === 0) return [];
  return [
    { type: 'heading', text: 'Noted' },
    ...noted.slice(0, MOST_TOLD).flatMap((one) => toldExchange(one, inflate)),
    ...(noted.length > MOST_TOLD
      ? [{ type: 'text', text: `The first ${MOST_TOLD} of ${noted.length} are told.` } as const]
      : []),
  ];
}

function toldExchange({ row, exchange, note, isBodyLeftOut }: NotedExchange, inflate: Inflate): Block[] {
  const response = findResponse(exchange);
  const outcome = row.status === undefined ? 'no response' : String(row.status);
  return [
    {
      type: 'text',
      text: `#${row.index} ${row.method} ${nameExchange(row)} on ${row.host}: ${outcome}, ${formatMs(row.timeMs)}`,
    },
    ...(note === '' ? [] : [{ type: 'note', text: note } as const]),
    headerTable(exchange.request.headers, response?.headers ?? []),
    ...payloadBlocks(exchange),
    ...(isBodyLeftOut ? [{ type: 'text', text: 'The body was left out.' } as const] : bodyBlocks(exchange, inflate)),
  ];
}

const headerTable = (request: readonly NameValue[], response: readonly NameValue[]): Block => ({
  type: 'table',
  head: ['Of', 'Header', 'Value'],
  rightAligned: new Set(),
  rows: [
    ...request.map(({ name, value }) => ['request', name, value]),
    ...response.map(({ name, value }) => ['response', name, value]),
  ],
});

const MOST_CHARS = 4000;
const MOST_LINES = 80;

function lines(text: string): Block {
  const cut = text.slice(0, MOST_CHARS).split(/\r?\n/).slice(0, MOST_LINES);
  const isCut = text.length > MOST_CHARS || text.split(/\r?\n/, MOST_LINES + 1).length > MOST_LINES;
  return { type: 'lines', lines: isCut ? [...cut, '(cut here)'] : cut };
}

function payloadBlocks({ request }: Exchange): Block[] {
  const { payload, bodyBytes } = request;
  if (payload === undefined) return [];
  const content = readPayloadContent(payload, bodyBytes);
  if (content.type === 'parts')
    return [
      { type: 'text', text: 'Payload' },
      lines(content.parts.map(({ name, value }) => `${name}=${value}`).join('\n')),
    ];
  if (content.type === 'unrecorded') return [{ type: 'text', text: 'The payload was not recorded.' }];
  if (content.bytes.length === 0) return [];
  const text = textFromBytes(content.bytes);
  if (text === undefined) return [{ type: 'text', text: `The payload is ${formatBytes(content.bytes.length)}.` }];
  return [{ type: 'text', text: 'Payload' }, lines(text)];
}

/** Pictures that every reader draws; they take a third more as text. */
const PICTURE = /^image\/(?:png|jpeg|gif|webp|avif|bmp)$/;
const MOST_PICTURE_BYTES = 400_000;

function bodyBlocks(exchange: Exchange, inflate: Inflate): Block[] {
  const response = findResponse(exchange);
  const bytes = response === undefined ? undefined : bodyAsSent(response, inflate);
  if (response === undefined || bytes === undefined) return [{ type: 'text', text: 'The body was not recorded.' }];
  if (bytes.length === 0) return [{ type: 'text', text: 'The body is empty.' }];
  const type = essence(response.mimeType) ?? '';
  if (PICTURE.test(type) && bytes.length <= MOST_PICTURE_BYTES)
    return [
      { type: 'picture', mimeType: type, base64: base64Of(bytes), alternative: `The picture of #${exchange.index}` },
    ];
  const text = textFromBytes(bytes);
  if (text === undefined)
    return [{ type: 'text', text: `The body is ${formatBytes(bytes.length)}${type === '' ? '' : ` of ${type}`}.` }];
  return [{ type: 'text', text: 'Body' }, lines(text)];
}

/** What was noted on a leg of a page's route. */
export const noteOnLeg = (marks: readonly Mark[], page: string, leg: Parameters<typeof legName>[0]): string =>
  noteAt(marks, markKey({ type: 'leg', page, leg: legName(leg) }));

export const noteAt = (marks: readonly Mark[], target: string): string =>
  marks.find((mark) => mark.target === target)?.note ?? '';
