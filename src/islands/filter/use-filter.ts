import { useStore } from '@nanostores/react';
import { atom } from 'nanostores';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import {
  Columns,
  type ComparedColumns,
  columnName,
  type ExtraColumns,
  evaluateFilter,
  type Filter,
  fieldsOf,
  hasRegex,
  type Reading,
  readTyped,
  wordFilterProblem,
} from '#core/filter';
import { $marks, markColumns } from '../marks/marks-store';
import { $place } from '../state/address';
import { fetchColumns } from '../state/api';
import { UNLOADED } from '../state/unloaded';
import type { RegexAnswer, RegexRunner } from './regex-runner';

/** What stands in the filter bar while it is being typed; undefined where that is what the address has. */
export const $typed = atom<string | undefined>(undefined);

export interface FilterState {
  readonly text: string;
  /** What holds: the text as a filter, or, where it is none, what `reading` says; a moment behind the text while it is typed. */
  readonly filter: Filter;
  /** Whether the text is a filter, the beginning of one, or searched for as it stands. */
  readonly reading: Reading;
  readonly columns: Columns;
  /** 1 for each row that it lets through, in the order of the rows. */
  readonly mask: Uint8Array;
  readonly problem: { readonly from: number; readonly to: number; readonly sentence: string } | undefined;
  /** True while what it asks for is fetched or computed; the mask is still that of before. */
  readonly isBusy: boolean;
}

const NO_EXTRA: ExtraColumns = new Map();
/** Why a regular expression that was run gave nothing. */
const WHY_UNRUN: Record<Exclude<RegexAnswer['type'], 'mask'>, string | undefined> = {
  'too-long': 'This regular expression takes too long; the previous filter stays active.',
  unloaded: `The previous filter stays active. ${UNLOADED.sentence} ${UNLOADED.advice}`,
  broken: 'This regular expression could not be run; the previous filter stays active.',
  replaced: undefined,
};

/**
 * The filter of the address, or of the bar while it is typed, over the rows of a capture.
 * @param compared what became of each row against another load's, where they stand beside one
 */
export function useFilter(
  captureId: string,
  rows: readonly ExchangeRow[],
  titles: ReadonlyMap<string, string>,
  compared?: ComparedColumns,
): FilterState {
  const place = useStore($place);
  const typed = useStore($typed);
  const text = typed ?? place.filter;
  const { reading, problem: unreadable } = useMemo(() => readTyped(text), [text]);
  // The letter first: what it does to a view is drawn behind it, and not at all where another one comes before that.
  const heard = useDeferredValue(text);
  const { filter, whole } = useMemo(() => readTyped(heard), [heard]);

  const { extra: fetched, missing, fetchProblem } = useExtraColumns(captureId, filter);
  const marks = useStore($marks);
  const extra = useMemo(
    () => (marks.captureId === captureId ? new Map([...fetched, ...markColumns(marks, rows)]) : fetched),
    [fetched, marks, captureId, rows],
  );
  const base = useMemo(() => new Columns(rows, titles, NO_EXTRA, compared), [rows, titles, compared]);
  const columns = useMemo(() => (extra.size === 0 ? base : base.with(extra)), [base, extra]);

  const needsWorker = hasRegex(filter);
  const direct = useMemo(
    () => (needsWorker || missing ? undefined : evaluateFilter(filter, columns)),
    [needsWorker, missing, filter, columns],
  );
  const regex = useRegexMask(rows, titles, needsWorker && !missing ? whole : undefined, extra, compared);
  const answer = needsWorker && regex?.text === whole ? regex.answer : undefined;
  const found = direct ?? (answer?.type === 'mask' ? answer.mask : undefined);
  const lastMask = useRef<Uint8Array>(new Uint8Array(rows.length).fill(1));
  if (found !== undefined) lastMask.current = found;
  const whyUnrun = answer === undefined || answer.type === 'mask' ? undefined : WHY_UNRUN[answer.type];
  const unread = unreadable && { ...unreadable, sentence: wordFilterProblem(unreadable) };
  const unrun = whyUnrun ?? fetchProblem;
  const problem = unread ?? (unrun === undefined ? undefined : { from: 0, to: text.length, sentence: unrun });
  return {
    text,
    filter,
    reading,
    columns,
    mask: lastMask.current,
    problem,
    isBusy: found === undefined && problem === undefined,
  };
}

/** Headers and cookies that a filter asks for are fetched when it first does. */
function useExtraColumns(
  captureId: string,
  filter: Filter,
): { readonly extra: ExtraColumns; readonly missing: boolean; readonly fetchProblem: string | undefined } {
  const [extra, setExtra] = useState<ExtraColumns>(NO_EXTRA);
  const [fetchProblem, setFetchProblem] = useState<string | undefined>();
  const names = fieldsOf(filter).flatMap((field) =>
    'key' in field && field.name !== 'query' ? columnName(field) : [],
  );
  const wanted = [...new Set(names)].filter((name) => !extra.has(name)).join('\n');
  useEffect(() => {
    if (wanted === '') return;
    let isCurrent = true;
    // Names are typed letter by letter: only one at which the typing rests is fetched.
    const timer = setTimeout(async () => {
      const answer = await fetchColumns(captureId, wanted.split('\n'));
      if (!isCurrent) return;
      setFetchProblem(answer.ok ? undefined : answer.problem.sentence);
      if (answer.ok) setExtra((known) => new Map([...known, ...Object.entries(answer.value)]));
    }, REST_MS);
    return () => {
      isCurrent = false;
      clearTimeout(timer);
    };
  }, [captureId, wanted]);
  return { extra, missing: wanted !== '', fetchProblem: wanted === '' ? undefined : fetchProblem };
}
const REST_MS = 150;

/** A runner whose script comes with the first regular expression. */
function laterRunner(...over: ConstructorParameters<typeof RegexRunner>): Pick<RegexRunner, 'run' | 'stop'> {
  let runner: Promise<RegexRunner> | undefined;
  return {
    run: async (text, extra) => {
      runner ??= import('./regex-runner').then((script) => new script.RegexRunner(...over));
      try {
        return await (await runner).run(text, extra);
      } catch {
        runner = undefined;
        return { type: 'unloaded' };
      }
    },
    // One that is still coming starts what it was asked to run, and stops then.
    stop: () => void runner?.then((coming) => coming.stop()).catch(() => undefined),
  };
}

interface RegexResult {
  readonly text: string;
  readonly answer: RegexAnswer;
}

function useRegexMask(
  rows: readonly ExchangeRow[],
  titles: ReadonlyMap<string, string>,
  text: string | undefined,
  extra: ExtraColumns,
  compared: ComparedColumns | undefined,
): RegexResult | undefined {
  const [result, setResult] = useState<RegexResult>();
  const runner = useMemo(() => laterRunner(rows, titles, compared), [rows, titles, compared]);
  useEffect(() => () => runner.stop(), [runner]);
  useEffect(() => {
    if (text === undefined) return;
    let isCurrent = true;
    runner.run(text, extra).then((answer) => {
      if (isCurrent) setResult({ text, answer });
    });
    return () => {
      isCurrent = false;
    };
  }, [runner, text, extra]);
  return result;
}
