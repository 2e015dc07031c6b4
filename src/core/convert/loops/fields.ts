import { readPath } from '../../json';
import type { Loop } from './loop';

/** What a draft does: one request, or a loop. */
export type LoopKind = 'one' | Loop['type'];

/** What each is called where it is chosen. */
const LOOP_LABELS: Record<LoopKind, string> = {
  one: 'one request',
  pages: 'page through a parameter',
  poll: 'ask again until',
  table: 'write a list as CSV',
  files: 'download what it names',
};
export const LOOP_KINDS = Object.entries(LOOP_LABELS) as readonly (readonly [LoopKind, string])[];

/** A loop as it is typed, all of its fields as texts: those of other kinds wait until they are chosen. */
export interface LoopFields {
  readonly kind: LoopKind;
  readonly parameter: string;
  readonly from: string;
  readonly to: string;
  readonly step: string;
  readonly list: string;
  readonly total: string;
  readonly mostPages: string;
  readonly at: string;
  readonly until: string;
  readonly pauseMs: string;
  readonly mostTries: string;
  readonly folder: string;
}

/** What stands there before anything is known of the answers. */
export const FIRST_LOOP: LoopFields = {
  kind: 'one',
  parameter: 'page',
  from: '0',
  to: '',
  step: '1',
  list: '$.items',
  total: '',
  mostPages: '100',
  at: '$.status',
  until: 'done',
  pauseMs: '500',
  mostTries: '20',
  folder: 'files',
};

const numberIn = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text));
const isCount = (value: number): boolean => Number.isInteger(value) && value >= 1;

/** A loop from its fields; undefined for one request; what is wrong with them, in a sentence. */
export function readLoop(fields: LoopFields): Loop | string | undefined {
  const pauseMs = numberIn(fields.pauseMs);
  if (fields.kind === 'one') return undefined;
  if (!(pauseMs >= 0)) return 'The pause is a number of ms.';
  switch (fields.kind) {
    case 'pages':
      return readPages(fields, pauseMs);
    case 'poll': {
      const [at, most] = [readPath(fields.at), numberIn(fields.mostTries)];
      if (at === undefined) return 'What is waited for is a place like $.status.';
      return isCount(most)
        ? { type: 'poll', at, until: fields.until, pauseMs, most }
        : 'The tries are a whole number, 1 or more.';
    }
    case 'table': {
      const list = readPath(fields.list);
      return list === undefined ? 'The list is a place like $.items.' : { type: 'table', list };
    }
    case 'files': {
      const at = readPath(fields.list);
      if (at === undefined) return 'Give the place of the URLs, like $.items[*].photo.';
      return fields.folder.trim() === '' ? 'Name the folder.' : { type: 'files', at, folder: fields.folder };
    }
    default:
      return fields.kind satisfies never;
  }
}

function readPages(fields: LoopFields, pauseMs: number): Loop | string {
  const [from, step, mostPages] = [numberIn(fields.from), numberIn(fields.step), numberIn(fields.mostPages)];
  const to = fields.to.trim() === '' ? undefined : numberIn(fields.to);
  const list = readPath(fields.list);
  const total = fields.total.trim() === '' ? undefined : readPath(fields.total);
  if (!Number.isInteger(from) || !Number.isInteger(step) || step === 0)
    return 'From and step are whole numbers, the step not 0.';
  if (to !== undefined && !Number.isInteger(to)) return 'To is a whole number, or empty.';
  if (!isCount(mostPages)) return 'The most pages are a whole number, 1 or more.';
  if (fields.parameter === '') return 'Name the parameter.';
  if (list === undefined) return 'The list is a place like $.items.';
  if (fields.total.trim() !== '' && total === undefined) return 'The total is a place like $.total.';
  return { type: 'pages', parameter: fields.parameter, from, to, step, list, total, mostPages, pauseMs };
}
