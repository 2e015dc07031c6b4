import type { ExchangeRow } from '#core/analysis';
import { readPiece, splitQuery } from '#core/convert';
import { splitUrl } from '#core/http';
import { headerNames } from '#core/reference';
import { fetchColumns, fetchNames } from '../state/api';
import type { SheetWords } from './sheet-completion';

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'];
/** Longer values are pasted, not chosen. */
const LONGEST_VALUE = 300;
const MOST_VALUES = 50;

/** What a sheet can be completed with: what the capture's requests say. Names and values of headers come when asked for. */
export function wordsOf(captureId: string, rows: readonly ExchangeRow[]): SheetWords {
  const urls = rows.map(({ url }) => splitQuery(url));
  const parts = urls.flatMap(({ base }) => splitUrl(base) ?? []);
  let names: Promise<readonly string[]> | undefined;
  const values = new Map<string, Promise<readonly string[]>>();
  return {
    methods: METHODS,
    origins: [...new Set(parts.map(({ origin }) => origin))],
    paths: [...new Set(parts.map(({ path }) => path))],
    queryNames: (address) => {
      const same = urls.filter(({ base, pieces }) => base === address && pieces.length > 0);
      const asked = same.length > 0 ? same : urls;
      return [...new Set(asked.flatMap(({ pieces }) => pieces.map((piece) => readPiece(piece).name)))];
    },
    headerNames: () => {
      names ??= fetchNames(captureId).then((answer) => [
        ...(answer.ok ? answer.value.flatMap(({ name }) => /^req\.(.*)$/.exec(name)?.[1] ?? []) : []),
        ...headerNames(),
      ]);
      return names;
    },
    headerValues: (name) => {
      const known =
        values.get(name) ??
        fetchColumns(captureId, [`req.${name}`]).then((answer) =>
          (answer.ok ? (answer.value[`req.${name}`]?.values ?? []) : [])
            .filter((value) => value.length <= LONGEST_VALUE)
            .slice(0, MOST_VALUES),
        );
      values.set(name, known);
      return known;
    },
  };
}
