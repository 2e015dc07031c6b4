import { readPath } from '../../json';
import type { Loop } from '../index';

const at = (path: string) => readPath(path) ?? [];

/** Loops of every kind, with every way to end. */
export const LOOPS: readonly Loop[] = [
  ...(['csv', 'jsonl'] as const).flatMap((rows): Loop[] => {
    const gathering = { list: at('$.huts'), rows, mostPages: 9, pauseMs: 100 };
    return [
      {
        ...gathering,
        type: 'pages',
        parameter: 'page',
        from: 1,
        to: undefined,
        step: 1,
        total: { in: 'json', at: at('$.total') },
        pages: { in: 'header', name: 'X-Pages' },
        shortEnds: true,
      },
      {
        ...gathering,
        type: 'pages',
        parameter: 'offset',
        from: 0,
        to: rows === 'csv' ? 50 : undefined,
        step: rows === 'csv' ? 'rows' : -10,
        total: undefined,
        pages: undefined,
        shortEnds: false,
      },
      { ...gathering, type: 'follow', parameter: undefined, next: { in: 'json', at: at('$.next') } },
      { ...gathering, type: 'follow', parameter: undefined, next: { in: 'link' } },
      { ...gathering, type: 'follow', parameter: 'cursor', next: { in: 'json', at: at('$.next') } },
      { type: 'table', list: at('$.huts[0]["it\'s"]'), rows },
    ];
  }),
  ...['done', '"done"', '3', '1.5', 'true', 'null', '{"a":[1]}', "it's «so»", '<= -1.5'].map(
    (text): Loop => ({
      type: 'poll',
      until: { in: 'json', at: at('$.state'), text },
      pauseMs: 100,
      most: 5,
    }),
  ),
  { type: 'poll', until: { in: 'status', status: 200 }, pauseMs: 100, most: 5 },
  ...(['csv', 'jsonl'] as const).map(
    (rows): Loop => ({
      type: 'values',
      parameter: 'hut',
      values: rows === 'csv' ? ['alba', "it's", 'a "b" $c'] : ['7'],
      list: at('$.huts'),
      rows,
      mostPages: 3,
      pauseMs: 100,
    }),
  ),
  { type: 'files', at: at('$.huts[*].photo'), folder: "the 'photos'" },
  { type: 'files', at: at('$[*]'), folder: 'photos' },
];
