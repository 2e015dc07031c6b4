import { EACH, type JsonSteps, readPath } from '../../json';
import { type Loop, type NextPlace, type NumberPlace, ROW_FORMATS, type RowFormat } from './loop';

/** What a draft does: one request, or a loop. */
export type LoopKind = 'one' | 'days' | Loop['type'];

/** What each is called where it is chosen. */
const LOOP_LABELS: Record<LoopKind, string> = {
  one: 'one request',
  pages: 'count through a parameter',
  follow: 'follow the next page',
  values: 'go through values',
  days: 'go through days',
  poll: 'ask again until',
  table: 'write a list as rows',
  files: 'download what it names',
};
export const LOOP_KINDS = Object.entries(LOOP_LABELS) as readonly (readonly [LoopKind, string])[];

/** What rows are written as, where it is chosen. */
const ROW_LABELS: Record<RowFormat, string> = { csv: 'CSV', jsonl: 'JSON lines' };
export const ROW_CHOICES = ROW_FORMATS.map((format) => [format, ROW_LABELS[format]] as const);

/** A loop as it is typed, all of its fields as texts: those of other kinds wait until they are chosen. */
export interface LoopFields {
  readonly kind: LoopKind;
  /** What counts. */
  readonly parameter: string;
  readonly from: string;
  readonly to: string;
  /** A number, or "rows": as many as came. */
  readonly step: string;
  /** Values, one a line, or with commas between them in one line. */
  readonly values: string;
  /** Like 2026-03-01, 20260301 or 2026/03/01: days are written as the first of them. */
  readonly firstDay: string;
  readonly lastDay: string;
  readonly list: string;
  /** A place of a response like $.total, or "header X-Total-Count". */
  readonly total: string;
  readonly pages: string;
  /** "yes" where a page with fewer rows than the first is the last. */
  readonly shortEnds: string;
  /** A place of a response like $.next, or "header Link". */
  readonly next: string;
  /** The parameter that gets what stands there; empty where that is an address. */
  readonly cursor: string;
  readonly rows: string;
  readonly mostPages: string;
  readonly at: string;
  readonly until: string;
  /** The status that is waited for, in place of a text at a place. */
  readonly status: string;
  readonly pauseMs: string;
  readonly mostTries: string;
  readonly folder: string;
}

/** What stands there before anything is known of the responses. */
export const FIRST_LOOP: LoopFields = {
  kind: 'one',
  parameter: 'page',
  from: '0',
  to: '',
  step: '1',
  values: '',
  firstDay: '',
  lastDay: '',
  list: '',
  total: '',
  pages: '',
  shortEnds: '',
  next: '',
  cursor: '',
  rows: 'csv',
  mostPages: '100',
  at: '$.status',
  until: 'done',
  status: '',
  pauseMs: '500',
  mostTries: '20',
  folder: 'files',
};

const numberIn = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text));
const isCount = (value: number): boolean => Number.isInteger(value) && value >= 1;
const HEADER_PLACE = /^header\s+([!#$%&'*+.^_`|~0-9A-Za-z-]+)$/i;

/** A loop from its fields; undefined for one request; what is wrong with them, in a sentence. */
export function readLoop(fields: LoopFields): Loop | string | undefined {
  // Clients sleep for whole numbers of ms.
  const pauseMs = Math.round(numberIn(fields.pauseMs));
  const rows = ROW_FORMATS.find((format) => format === fields.rows);
  if (fields.kind === 'one') return undefined;
  if (!(pauseMs >= 0)) return 'The pause is a number of ms.';
  if (rows === undefined) return `Rows are written as ${ROW_FORMATS.join(' or ')}.`;
  switch (fields.kind) {
    case 'pages':
    case 'follow':
      return readPages(fields, fields.kind, pauseMs, rows);
    case 'values':
    case 'days':
      return readValues(fields, pauseMs, rows);
    case 'poll':
      return readPoll(fields, pauseMs);
    case 'table': {
      const list = listOf(fields);
      return typeof list === 'string' ? list : { type: 'table', list, rows };
    }
    case 'files': {
      const at = fields.list.trim() === '' ? undefined : readPath(fields.list);
      if (at === undefined) return 'Give the place of the URLs, like $.items[*].photo.';
      return fields.folder.trim() === '' ? 'Name the folder.' : { type: 'files', at, folder: fields.folder };
    }
    default:
      return fields.kind satisfies never;
  }
}

function listOf({ list }: LoopFields): JsonSteps | string {
  if (list.trim() === '') return 'Give the place of the list, like $.items; a list that is the whole response is at $.';
  return onePlace(list) ?? 'The list is a place like $.items.';
}

/** A place of one value: none that stands for each of an array. */
function onePlace(text: string): JsonSteps | undefined {
  const at = text.trim() === '' ? undefined : readPath(text);
  return at?.includes(EACH) === true ? undefined : at;
}

/** A place of a number from its text; undefined where there is none, null where that is no place. */
function numberPlace(text: string): NumberPlace | undefined | null {
  if (text.trim() === '') return undefined;
  const [, name] = HEADER_PLACE.exec(text.trim()) ?? [];
  if (name !== undefined) return { in: 'header', name };
  const at = onePlace(text);
  return at === undefined ? null : { in: 'json', at };
}

function nextPlace(text: string): NextPlace | undefined {
  const [, name] = HEADER_PLACE.exec(text.trim()) ?? [];
  if (name !== undefined) return name.toLowerCase() === 'link' ? { in: 'link' } : undefined;
  const at = onePlace(text);
  return at === undefined ? undefined : { in: 'json', at };
}

function readPages(fields: LoopFields, kind: 'pages' | 'follow', pauseMs: number, rows: RowFormat): Loop | string {
  const [from, mostPages] = [numberIn(fields.from), numberIn(fields.mostPages)];
  const step = fields.step.trim() === 'rows' ? 'rows' : numberIn(fields.step);
  const to = fields.to.trim() === '' ? undefined : numberIn(fields.to);
  const [total, pages] = [numberPlace(fields.total), numberPlace(fields.pages)];
  const next = nextPlace(fields.next);
  const list = listOf(fields);
  const isCounter = kind === 'pages';
  if (isCounter && (!Number.isInteger(from) || (step !== 'rows' && (!Number.isInteger(step) || step === 0))))
    return 'From is a whole number, the step is one that is not 0, or "rows" for as many as came.';
  if (isCounter && to !== undefined && !Number.isInteger(to)) return 'To is a whole number, or empty.';
  if (!isCount(mostPages)) return 'The most pages are a whole number, 1 or more.';
  if (isCounter && fields.parameter === '') return 'Name the parameter.';
  if (typeof list === 'string') return list;
  if (!isCounter) {
    if (next === undefined) return 'The next page is at a place like $.next, or in "header Link".';
    const parameter = next.in === 'link' || fields.cursor === '' ? undefined : fields.cursor;
    return { type: 'follow', parameter, next, list, rows, mostPages, pauseMs };
  }
  if (total === null) return 'The total is at a place like $.total, or in a header: "header X-Total-Count".';
  if (pages === null) return 'The number of pages is at a place like $.pages, or in a header: "header X-Pages".';
  const shortEnds = fields.shortEnds === 'yes';
  return {
    type: 'pages',
    parameter: fields.parameter,
    from,
    to,
    step,
    total,
    pages,
    shortEnds,
    list,
    rows,
    mostPages,
    pauseMs,
  };
}

/** More values are a mistake, or a crawl. */
const MOST_VALUES = 10_000;

function readValues(fields: LoopFields, pauseMs: number, rows: RowFormat): Loop | string {
  const { parameter, kind } = fields;
  if (parameter === '') return 'Name the parameter.';
  const values = kind === 'days' ? daysOf(fields) : splitValues(fields.values);
  if (typeof values === 'string') return values;
  if (values.length === 0) return 'Give the values: one a line, or with commas between them.';
  if (values.length > MOST_VALUES) return `${values.length} values are more than the ${MOST_VALUES} of one series.`;
  const list = listOf(fields);
  if (typeof list === 'string') return list;
  return { type: 'values', parameter, values, list, rows, mostPages: values.length, pauseMs };
}

/** Values as they were pasted: one a line, else with commas between them. A line that is alone behind another is one value. */
function splitValues(text: string): string[] {
  const parts = /\n/.test(text.trimEnd()) ? text.split(/\r?\n/) : text.split(',');
  return parts.map((part) => part.trim()).filter((part) => part !== '');
}

const DAY = /^(\d{4})([-/.]?)(\d\d)\2(\d\d)$/;
const DAY_MS = 86_400_000;

/** The days from one to another, each step behind the one before, written as the first is. */
function daysOf({ firstDay, lastDay, step }: LoopFields): string[] | string {
  const [first, last] = [readDay(firstDay), readDay(lastDay)];
  const days = numberIn(step);
  if (first === undefined || last === undefined) return 'The first and the last day are days like 2026-03-01.';
  if (!Number.isInteger(days) || days === 0) return 'The step is a whole number of days that is not 0.';
  const count = Math.floor((last.ms - first.ms) / (days * DAY_MS)) + 1;
  if (count < 1) return 'The last day is before the first.';
  if (count > MOST_VALUES) return `${count} values are more than the ${MOST_VALUES} of one series.`;
  return Array.from({ length: count }, (_, at) => {
    const day = new Date(first.ms + at * days * DAY_MS).toISOString().slice(0, 10);
    return day.replaceAll('-', first.between);
  });
}

function readDay(text: string): { readonly ms: number; readonly between: string } | undefined {
  const [, year = '', between = '', month = '', day = ''] = DAY.exec(text.trim()) ?? [];
  const written = `${year}-${month}-${day}`;
  const ms = Date.parse(`${written}T00:00:00Z`);
  // The 30th of February is no day.
  return Number.isNaN(ms) || new Date(ms).toISOString().slice(0, 10) !== written ? undefined : { ms, between };
}

function readPoll(fields: LoopFields, pauseMs: number): Loop | string {
  const [at, most, status] = [onePlace(fields.at), numberIn(fields.mostTries), numberIn(fields.status)];
  if (!isCount(most)) return 'The tries are a whole number, 1 or more.';
  if (fields.status.trim() !== '') {
    if (!Number.isInteger(status) || status < 100 || status > 599) return 'The status is a number like 200, or empty.';
    return { type: 'poll', until: { in: 'status', status }, pauseMs, most };
  }
  if (at === undefined) return 'What is waited for is a place like $.status.';
  return { type: 'poll', until: { in: 'json', at, text: fields.until }, pauseMs, most };
}
