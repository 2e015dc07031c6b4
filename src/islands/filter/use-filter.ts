import { useStore } from '@nanostores/react';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import type { Columns, ComparedColumns, ExtraColumns, Filter, Reading, TypedFilter } from '#core/filter';
import { $marks } from '../marks/marks-store';
import { $place } from '../state/address';
import { fetchColumns } from '../state/api';
import { UNLOADED } from '../state/unloaded';
import type { Filtering } from './filtering';
import { $filtering, fetchFiltering } from './filtering-store';
import type { RegexAnswer, RegexRunner } from './regex-runner';
import { $typed } from './typed';

export interface FilterState {
  readonly text: string;
  /** What holds: the text as a filter, or, where it is none, what `reading` says; a moment behind the text while it is typed. */
  readonly filter: Filter;
  /** Whether the text is a filter, the beginning of one, or searched for as it stands. */
  readonly reading: Reading;
  /** Of the rows; undefined until what filters is there. */
  readonly columns: Columns | undefined;
  /** 1 for each row that it lets through, in the order of the rows. */
  readonly mask: Uint8Array;
  readonly problem: { readonly from: number; readonly to: number; readonly sentence: string } | undefined;
  /** True while what it asks for is fetched or computed; the mask is still that of before. */
  readonly isBusy: boolean;
}

const NO_EXTRA: ExtraColumns = new Map();
/** An empty filter, and any other until what reads it is there. */
const UNREAD: TypedFilter = { filter: { type: 'everything' }, reading: 'filter', whole: '', problem: undefined };
/** Why a regular expression that was run gave nothing. */
const WHY_UNRUN: Record<Exclude<RegexAnswer['type'], 'mask'>, string | undefined> = {
  'too-long': 'This regular expression takes too long; the previous filter stays active.',
  unloaded: `This filter is not applied. ${UNLOADED.sentence} ${UNLOADED.advice}`,
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
  const { filtering, isUnloaded } = useFiltering(text);
  const { reading, problem: unreadable } = useMemo(() => filtering?.readTyped(text) ?? UNREAD, [filtering, text]);
  // The letter first: what it does to a view is drawn behind it, and not at all where another one comes before that.
  const heard = useDeferredValue(text);
  const { filter, whole } = useMemo(() => filtering?.readTyped(heard) ?? UNREAD, [filtering, heard]);

  const { extra: fetched, missing, fetchProblem } = useExtraColumns(captureId, filter, filtering);
  const marks = useStore($marks);
  const extra = useMemo(
    () =>
      filtering !== undefined && marks.captureId === captureId
        ? new Map([...fetched, ...filtering.markColumns(marks, rows)])
        : fetched,
    [fetched, filtering, marks, captureId, rows],
  );
  const base = useMemo(
    () => filtering && new filtering.Columns(rows, titles, NO_EXTRA, compared),
    [filtering, rows, titles, compared],
  );
  const columns = useMemo(() => (extra.size === 0 ? base : base?.with(extra)), [base, extra]);

  const needsWorker = filtering?.hasRegex(filter) === true;
  const all = useMemo(() => new Uint8Array(rows.length).fill(1), [rows]);
  const direct = useMemo(() => {
    if (heard === '') return all;
    return needsWorker || missing || columns === undefined ? undefined : filtering?.evaluateFilter(filter, columns);
  }, [heard, all, needsWorker, missing, filtering, filter, columns]);
  const regex = useRegexMask(rows, titles, needsWorker && !missing ? whole : undefined, extra, compared);
  const answer = needsWorker && regex?.text === whole ? regex.answer : undefined;
  const found = direct ?? (answer?.type === 'mask' ? answer.mask : undefined);
  const lastMask = useRef<Uint8Array>(all);
  if (found !== undefined) lastMask.current = found;
  const whyUnrun = answer === undefined || answer.type === 'mask' ? undefined : WHY_UNRUN[answer.type];
  const unread = unreadable && filtering && { ...unreadable, sentence: filtering.wordFilterProblem(unreadable) };
  const unrun = (isUnloaded && text !== '' ? WHY_UNRUN.unloaded : whyUnrun) ?? fetchProblem;
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

/** What reads and applies filters, fetched behind what is drawn first; asked for again with each letter where it did not come. */
function useFiltering(text: string): { readonly filtering: Filtering | undefined; readonly isUnloaded: boolean } {
  const there = useStore($filtering);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another text asks once more.
  useEffect(() => {
    fetchFiltering();
  }, [text]);
  return there === 'unloaded' ? { filtering: undefined, isUnloaded: true } : { filtering: there, isUnloaded: false };
}

/** Headers and cookies that a filter asks for are fetched when it first does. */
function useExtraColumns(
  captureId: string,
  filter: Filter,
  filtering: Filtering | undefined,
): { readonly extra: ExtraColumns; readonly missing: boolean; readonly fetchProblem: string | undefined } {
  const [extra, setExtra] = useState<ExtraColumns>(NO_EXTRA);
  const [fetchProblem, setFetchProblem] = useState<string | undefined>();
  const names = filtering
    ?.fieldsOf(filter)
    .flatMap((field) => ('key' in field && field.name !== 'query' ? filtering.columnName(field) : []));
  const wanted = [...new Set(names ?? [])].filter((name) => !extra.has(name)).join('\n');
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
