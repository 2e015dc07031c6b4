import { bytesFromText, textFromBytes } from '../content';
import { readJsonTree } from '../json';
import type { NameValue } from '../model';
import { type Given, NOT_RECORDED } from './answer';

/** What a rehearsal gives in place of what was captured: for one exchange, kept with the capture. */
export interface ChangedResponse {
  /** The number of the exchange. */
  readonly exchange: number;
  readonly status?: number;
  /** Headers to set; one without a value is left out. */
  readonly headers?: readonly { readonly name: string; readonly value?: string }[];
  readonly body?: string;
  /** The largest list of its JSON has nothing in it. */
  readonly emptiesList?: true;
  /** In ms, in place of the captured wait. */
  readonly delayMs?: number;
  /** No response; or one that breaks off in its middle. */
  readonly failure?: ResponseFailure;
}

export const RESPONSE_FAILURES = ['reset', 'silence', 'breaks-off'] as const;
export type ResponseFailure = (typeof RESPONSE_FAILURES)[number];

/** What is given once a change is made in it. */
export function withChange(given: Given, change: ChangedResponse): Given {
  const { status, headers = [], body, failure, emptiesList } = change;
  if (failure === 'reset' || failure === 'silence') return { type: 'none', how: failure, remarks: [CHANGED] };
  const isPlain = [status, headers[0], body, failure, emptiesList].every((one) => one === undefined);
  // Only its time is changed.
  if (isPlain) return given;
  const before: Extract<Given, { type: 'response' }> = given.type === 'response' ? given : NOTHING_CAPTURED;
  const names = new Set(headers.map(({ name }) => name.toLowerCase()));
  const set = headers.flatMap(({ name, value }): NameValue[] => (value === undefined ? [] : [{ name, value }]));
  return {
    ...before,
    status: status ?? before.status,
    statusText: status === undefined || status === before.status ? before.statusText : '',
    headers: [...before.headers.filter(({ name }) => !names.has(name.toLowerCase())), ...set],
    body: changedBody(before.body, change),
    breaksOff: failure === 'breaks-off' || before.breaksOff,
    remarks: [...before.remarks.filter((remark) => body === undefined || remark !== NOT_RECORDED), CHANGED],
  };
}

const CHANGED = 'changed for this rehearsal';

function changedBody(before: Uint8Array, { body, emptiesList }: ChangedResponse): Uint8Array {
  if (body !== undefined) return bytesFromText(body);
  const text = emptiesList === true ? textFromBytes(before) : undefined;
  const emptied = text === undefined ? undefined : withEmptyList(text);
  return emptied === undefined ? before : bytesFromText(emptied);
}

const NOTHING_CAPTURED: Extract<Given, { type: 'response' }> = {
  type: 'response',
  status: 200,
  statusText: '',
  headers: [],
  body: new Uint8Array(),
  mimeType: undefined,
  coding: undefined,
  breaksOff: false,
  staysOpen: false,
  remarks: [],
};

const ARRAY = 1;

/** A JSON text with its largest list of all emptied, all else as it is; undefined where it has none with anything in it. */
export function withEmptyList(text: string): string | undefined {
  const tree = readJsonTree(text);
  if (tree.problem !== undefined) return undefined;
  let largest: number | undefined;
  const lengthOf = (node: number): number => (tree.ends[node] ?? 0) - (tree.starts[node] ?? 0);
  for (let node = 0; node < tree.count; node++)
    if (
      tree.kinds[node] === ARRAY &&
      (tree.sizes[node] ?? 0) > 0 &&
      (largest === undefined || lengthOf(node) > lengthOf(largest))
    )
      largest = node;
  if (largest === undefined) return undefined;
  return `${text.slice(0, tree.starts[largest])}[]${text.slice(tree.ends[largest])}`;
}

/** A change as the command line writes it went wrong, with what would be right. */
export class ChangeError extends Error {}

/**
 * Reads a change: a number, then what is changed: `12 status=503`, `12 delay=5s`, `12 header=Retry-After: 10`, `12 body={"items":[]}`,
 * `12 list=empty`, `12 fails=reset`. @throws ChangeError
 */
export function readChange(text: string): ChangedResponse {
  const [, number = '', name = '', value = ''] = /^\s*#?(\d+)\s+([a-z]+)\s*=([\s\S]*)$/i.exec(text) ?? [];
  const exchange = Number(number);
  switch (name.toLowerCase()) {
    case 'status': {
      const status = Number(value);
      if (!Number.isInteger(status) || status < 200 || status > 599)
        throw new ChangeError(`"${value}" is no status: give a number from 200 to 599.`);
      return { exchange, status };
    }
    case 'delay':
      return { exchange, delayMs: readDelay(value) };
    case 'header': {
      const [, header = '', said] = /^\s*([^:\s]+)\s*:\s*(.*)$/s.exec(value) ?? [];
      if (header === '') throw new ChangeError(`"${value}" is no header: write "header=Name: value".`);
      return {
        exchange,
        headers: [said === undefined || said === '' ? { name: header } : { name: header, value: said }],
      };
    }
    case 'body':
      return { exchange, body: value };
    case 'list':
      if (value.trim() !== 'empty')
        throw new ChangeError(`"${value}" is nothing that a list can be made: write list=empty.`);
      return { exchange, emptiesList: true };
    case 'fails': {
      const failure = RESPONSE_FAILURES.find((one) => one === value.trim());
      if (failure === undefined)
        throw new ChangeError(`"${value}" is no failure: write ${RESPONSE_FAILURES.join(', ')}.`);
      return { exchange, failure };
    }
    default:
      throw new ChangeError(
        `"${text}" is no change: write "N status=503", "N delay=5s", "N header=Name: value", "N body=...", "N list=empty" or "N fails=reset".`,
      );
  }
}

/** A change as `readChange` reads it, a line for each part of it; a body goes on over its own lines. */
export function writeChange({
  exchange,
  status,
  headers,
  body,
  emptiesList,
  delayMs,
  failure,
}: ChangedResponse): string[] {
  const parts = [
    status === undefined ? [] : [`status=${status}`],
    (headers ?? []).map(({ name, value }) => `header=${name}: ${value ?? ''}`.trimEnd()),
    body === undefined ? [] : [`body=${body}`],
    emptiesList === true ? ['list=empty'] : [],
    delayMs === undefined ? [] : [`delay=${delayMs}ms`],
    failure === undefined ? [] : [`fails=${failure}`],
  ];
  return parts.flat().map((part) => `${exchange} ${part}`);
}

/**
 * Reads changes line by line; a line that begins with none goes on with what stands before it, as those of a body do. Blank lines
 * between changes are none. @throws ChangeError
 */
export function readChanges(text: string): ChangedResponse[] {
  const changes: string[] = [];
  for (const line of text.split('\n')) {
    const last = changes.length - 1;
    const goesOn =
      last >= 0 && /^\s*#?\d+\s+body\s*=/i.test(changes[last] ?? '') && !/^\s*#?\d+\s+[a-z]+\s*=/i.test(line);
    if (goesOn) changes[last] += `\n${line}`;
    else if (line.trim() !== '') changes.push(line);
  }
  return joinChanges(changes.map((change) => readChange(change.replace(/\n+$/, ''))));
}

const LONGEST_DELAY_MS = 600_000;

function readDelay(text: string): number {
  const [, number = '', unit = 'ms'] = /^\s*(\d+(?:\.\d+)?)\s*(ms|s)?\s*$/.exec(text) ?? [];
  const ms = Number(number) * (unit === 's' ? 1000 : 1);
  if (number === '' || ms > LONGEST_DELAY_MS)
    throw new ChangeError(`"${text}" is no delay: write 500ms or 5s, up to 600s.`);
  return ms;
}

/** Several changes as one for each exchange; of what two of them set the later one counts. */
export function joinChanges(changes: readonly ChangedResponse[]): ChangedResponse[] {
  const joined = new Map<number, ChangedResponse>();
  for (const change of changes) {
    const before = joined.get(change.exchange);
    const headers = [...(before?.headers ?? []), ...(change.headers ?? [])];
    joined.set(change.exchange, { ...before, ...change, ...(headers.length === 0 ? {} : { headers }) });
  }
  return [...joined.values()];
}
