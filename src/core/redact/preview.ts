import { isObject, type Json, member } from '../har';
import { formatBytes } from '../wording';
import { type EntryTools, readContent } from './entry';
import type { Redactor, Stretch } from './redactor';

// One exchange as it would leave: its texts in lines, each in stretches that tell what was inked out.

/** A line of a message, or of a body. */
export type PreviewLine = readonly Stretch[];

export interface PreviewMessage {
  readonly head: readonly PreviewLine[];
  readonly body: readonly PreviewLine[];
  /** What is said of a body that is not shown, or is shown in part. */
  readonly bodyNote: string | undefined;
}

export interface ExchangePreview {
  readonly request: PreviewMessage;
  /** None where none was recorded. */
  readonly response: PreviewMessage;
  /** Messages of a socket. */
  readonly messages: readonly PreviewLine[];
}

/** So much of a body is shown: what is replaced behind it is counted in the list all the same. */
const SHOWN_CHARS = 60_000;
const SHOWN_MESSAGES = 200;

/** An exchange as it leaves. @param entry as it was recorded, its body left out or made blank where it is to be */
export function previewExchange(entry: Json, redactor: Redactor, tools: EntryTools): ExchangePreview {
  const request = member(entry, 'request') ?? null;
  const response = member(entry, 'response') ?? null;
  const textIn = (value: Json, name: string): string => {
    const found = member(value, name);
    return typeof found === 'string' || typeof found === 'number' ? String(found) : '';
  };
  const headers = (message: Json): PreviewLine[] =>
    listIn(message, 'headers').map((header) => {
      const [name, value] = [textIn(header, 'name'), textIn(header, 'value')];
      return [...redactor.stretches(name), { text: ': ' }, ...redactor.stretches(value, { type: 'header', name })];
    });
  const first: PreviewLine = [
    { text: `${textIn(request, 'method')} ` },
    ...redactor.stretches(textIn(request, 'url'), { type: 'url' }),
    { text: ` ${textIn(request, 'httpVersion')}` },
  ];
  const status: PreviewLine = [
    { text: `${textIn(response, 'httpVersion')} ${textIn(response, 'status')} ` },
    ...redactor.stretches(textIn(response, 'statusText')),
  ];
  const bodyOf = (message: Json, name: string) => readBody(message, name, entry, redactor, tools);
  return {
    request: { head: [first, ...headers(request)], ...bodyOf(request, 'postData') },
    response: { head: [status, ...headers(response)], ...bodyOf(response, 'content') },
    messages: listIn(entry, '_webSocketMessages')
      .slice(0, SHOWN_MESSAGES)
      .map((message) => [
        { text: `${textIn(message, 'type')} ` },
        ...redactor.stretches(textIn(message, 'data'), { type: 'content', text: { type: 'text' } }),
      ]),
  };
}

function listIn(value: Json, name: string): readonly Json[] {
  const list = member(value, name);
  return Array.isArray(list) ? list : [];
}

function readBody(
  message: Json,
  name: string,
  entry: Json,
  redactor: Redactor,
  tools: EntryTools,
): Pick<PreviewMessage, 'body' | 'bodyNote'> {
  const content = member(message, name);
  if (!isObject(content)) return { body: [], bodyNote: undefined };
  const read = readContent(content, entry, tools);
  if (read === undefined) return { body: paramsIn(content, redactor), bodyNote: undefined };
  if (read.text === undefined) return { body: [], bodyNote: `${formatBytes(read.bytes)} that are no text` };
  const isWhole = read.text.length <= SHOWN_CHARS;
  const stretches = redactor.stretches(isWhole ? read.text : read.text.slice(0, SHOWN_CHARS), read.role);
  return {
    body: linesOf(stretches),
    bodyNote: isWhole
      ? undefined
      : `the first ${SHOWN_CHARS / 1000} of ${Math.ceil(read.text.length / 1000)} thousand characters`,
  };
}

/** The fields of a form that was recorded without its text. */
const paramsIn = (content: Json, redactor: Redactor): PreviewLine[] =>
  listIn(content, 'params').flatMap((param) => {
    const [name, value] = [member(param, 'name'), member(param, 'value')];
    if (typeof name !== 'string') return [];
    const own = typeof value === 'string' ? redactor.stretches(value, { type: 'pair', name }) : [];
    return [[...redactor.stretches(name), { text: '=' }, ...own]];
  });

/** Stretches, parted where lines end. */
function linesOf(stretches: readonly Stretch[]): PreviewLine[] {
  const lines: Stretch[][] = [[]];
  for (const { text, ...rest } of stretches) {
    for (const [at, part] of text.split(/\r?\n/).entries()) {
      if (at > 0) lines.push([]);
      if (part !== '') lines.at(-1)?.push({ text: part, ...rest });
    }
  }
  return lines;
}
