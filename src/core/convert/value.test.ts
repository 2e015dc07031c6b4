import { expect, it } from 'vitest';
import { readPath } from '../json';
import { EMPTY_DRAFT, type Loop, renderLoop, SCRIPT_TARGETS } from './index';
import { LOOP_VARIABLE } from './loops/loop';
import { identOf } from './value';

const at = (path: string) => readPath(path) ?? [];
const LOOPS: readonly Loop[] = [
  {
    type: 'pages',
    parameter: 'page',
    from: 1,
    to: undefined,
    step: 1,
    list: at('$.huts'),
    total: at('$.total'),
    mostPages: 9,
    pauseMs: 100,
  },
  { type: 'poll', at: at('$.state'), until: 'done', pauseMs: 100, most: 5 },
  { type: 'table', list: at('$.huts') },
  { type: 'files', at: at('$.huts[*].photo'), folder: 'photos' },
];

it('a variable is never called like a name that the scripts give to something of their own', () => {
  const token = { name: 'Authorization', value: 'Bearer t', role: 'credential', kept: true, reason: '' } as const;
  const draft = { ...EMPTY_DRAFT, url: 'https://a.example/huts?page=1', headers: [token] };
  const scripts = LOOPS.flatMap((loop) =>
    SCRIPT_TARGETS.filter((target) => target !== 'curl-sh').map((target) => renderLoop(draft, loop, target).text),
  );
  const given = scripts.flatMap((text) => [
    ...text.matchAll(/^ *(?:const |let )?([a-z_]\w*) = |\bfor (?:\(const )?([a-z_]\w*) (?:in|of)\b/gim),
  ]);
  const names = new Set(given.map(([, assigned, walked]) => assigned ?? walked ?? ''));
  names.delete(LOOP_VARIABLE.name);
  expect(names).toContain('addresses');
  const free = [...names].filter((name) => identOf({ name, value: '', isSecret: false }) === name);
  expect(free).toEqual([]);
});
