import { type ExchangeRow, type Moments, nameExchange } from '../analysis';
import type { ExchangeIndex } from '../model';
import type { Change } from './change';
import { documentAnswersMs, documentOf } from './document';
import { type BriefPage, plotPage } from './page';
import { Load } from './play';

/** The changes that can be asked after. */
export const WHAT_IF_KINDS = [
  'leave-out',
  'answer-in',
  'from-cache',
  'download-share',
  'start-at',
] as const satisfies readonly Change['type'][];
export type WhatIfKind = (typeof WHAT_IF_KINDS)[number];

/** What is asked: one change of one subject. */
export interface WhatIfQuestion {
  /** The id of one of the subjects; undefined, or one that there is not, for the first that is worth asking after. */
  readonly subject: string | undefined;
  readonly kind: WhatIfKind;
  /** Of responses that would come sooner, in ms. */
  readonly waitMs: number;
}

export interface WhatIfAnswer {
  /** What can be changed, by id with its words: what stands on the route first, the longest before the others, then every host. */
  readonly subjects: readonly (readonly [id: string, words: string])[];
  /** The one that is answered for. */
  readonly subject: string;
  /** Undefined where what is left out is the document, without which there is no load. */
  readonly outcome: WhatIfOutcome | undefined;
}

interface WhatIfOutcome {
  /** How long the load took, and how long it would take, in ms. */
  readonly wholeMs: number;
  readonly newMs: number;
  /** What it would wait for, as a sentence; empty where that is nothing. */
  readonly route: string;
}

/** "Downloaded in half the time". */
const HALF = 0.5;
const ALL = 'all';
const SHOWN_LEGS = 5;
/** Nobody looks through more of a list; what the others took is the least. */
const MOST_ON_ROUTE = 200;

/** A page's load that is asked after with changes, again and again. What it takes to be played is made once. */
export class WhatIf {
  readonly #rows: readonly ExchangeRow[];
  readonly #load: Load;
  readonly #brief: BriefPage | undefined;
  readonly #subjects: WhatIfAnswer['subjects'];
  readonly #document: ExchangeRow | undefined;
  readonly #documentMs: number;

  /** @param rows the exchanges of the page, times since its start */
  constructor(rows: readonly ExchangeRow[], page: Moments | undefined) {
    this.#rows = rows;
    this.#load = new Load(rows, page);
    this.#brief = plotPage(rows, page);
    this.#subjects = this.#brief === undefined ? [] : subjectsOf(rows, this.#brief);
    this.#document = documentOf(rows);
    this.#documentMs = documentAnswersMs(rows) ?? Number.POSITIVE_INFINITY;
  }

  /** Plays the load with a change. Undefined where nothing of it has a start. */
  ask({ subject: asked, kind, waitMs }: WhatIfQuestion): WhatIfAnswer | undefined {
    const brief = this.#brief;
    // What can be asked of the document is not what is asked first.
    const first = this.#subjects.find(([id]) => id !== `#${this.#document?.index}`) ?? this.#subjects[0];
    const subject = this.#subjects.find(([id]) => id === asked)?.[0] ?? first?.[0] ?? ALL;
    const indexes = indexesOf(this.#rows, subject);
    const played = this.#load.play([changeOf(kind, indexes, waitMs, this.#documentMs)]);
    if (brief === undefined || played === undefined) return undefined;
    const isLoad = kind !== 'leave-out' || this.#document === undefined || !indexes.has(this.#document.index);
    if (!isLoad) return { subjects: this.#subjects, subject, outcome: undefined };
    const { originMs, targetMs } = brief;
    const route = routeWords(played.plot(), this.#rows);
    return {
      subjects: this.#subjects,
      subject,
      outcome: { wholeMs: targetMs - originMs, newMs: played.targetMs - originMs, route },
    };
  }
}

function subjectsOf(rows: readonly ExchangeRow[], { legs }: BriefPage): WhatIfAnswer['subjects'] {
  const byIndex = new Map<ExchangeIndex, ExchangeRow>(rows.map((row) => [row.index, row]));
  const onRoute = legs
    .flatMap((leg) => (leg.type === 'exchange' ? { row: byIndex.get(leg.index), ms: leg.endMs - leg.startMs } : []))
    .sort((a, b) => b.ms - a.ms)
    .slice(0, MOST_ON_ROUTE)
    .flatMap(({ row }) =>
      row === undefined ? [] : [[`#${row.index}`, `#${row.index} ${nameExchange(row)}`] as const],
    );
  const hosts = [...new Set(rows.map(({ host }) => host))].map((host) => [host, `all of ${host}`] as const);
  return [...onRoute, ...hosts, [ALL, 'everything']];
}

const indexesOf = (rows: readonly ExchangeRow[], subject: string): ReadonlySet<ExchangeIndex> =>
  new Set(
    rows.flatMap(({ index, host }) => (subject === ALL || `#${index}` === subject || host === subject ? index : [])),
  );

function changeOf(type: WhatIfKind, indexes: ReadonlySet<ExchangeIndex>, waitMs: number, documentMs: number): Change {
  switch (type) {
    case 'answer-in':
      return { type, indexes, waitMs };
    case 'download-share':
      return { type, indexes, share: HALF };
    case 'start-at':
      return { type, indexes, startMs: documentMs };
    case 'leave-out':
    case 'from-cache':
      return { type, indexes };
    default:
      return type satisfies never;
  }
}

/** The last legs of a route, by name; the play changes the times of rows, not their names. */
function routeWords(brief: BriefPage | undefined, rows: readonly ExchangeRow[]): string {
  const legs = (brief?.legs ?? []).flatMap((leg) => (leg.type === 'exchange' ? leg.index : []));
  if (legs.length === 0) return '';
  const last = legs.slice(-SHOWN_LEGS);
  const named = new Map(rows.flatMap((row) => (last.includes(row.index) ? [[row.index, row] as const] : [])));
  const shown = last.flatMap((index) => {
    const row = named.get(index);
    return row === undefined ? [] : `${nameExchange(row)} (#${index})`;
  });
  return `Its route would ${legs.length > SHOWN_LEGS ? 'end with' : 'be'} ${shown.join(', then ')}.`;
}
