import { expect, it } from 'vitest';
import { EMPTY_DRAFT, renderLoop, SCRIPT_TARGETS } from './index';
import { LOOP_VARIABLE } from './loops/loop';
import { LOOPS } from './testing/loops';
import { identOf } from './value';

it('a variable is never called like a name that the scripts give to something of their own', () => {
  const token = { name: 'Authorization', value: 'Bearer t', role: 'credential', kept: true, reason: '' } as const;
  const draft = { ...EMPTY_DRAFT, url: 'https://a.example/huts?page=1', headers: [token] };
  const scripts = LOOPS.flatMap((loop) =>
    SCRIPT_TARGETS.filter((target) => target !== 'curl-sh').map((target) => renderLoop(draft, loop, target).text),
  );
  const given = scripts.flatMap((text) => [
    ...text.matchAll(
      /^[ \t]*(?:const |let |var )?\$?([a-z_]\w*)(?:, \$?\w+)? (?:=|:=|\+=) |\bfor(?:each)? (?:\((?:const |\$\w+ as )?\$?|_, )?([a-z_]\w*) (?:in|of|:=|=>)|\bfunc(?:tion)? ([a-z_]\w*)/gim,
    ),
  ]);
  const names = new Set(given.map(([, assigned, walked, called]) => assigned ?? walked ?? called ?? ''));
  names.delete(LOOP_VARIABLE.name);
  expect(names).toContain('addresses');
  // Those in capitals are parameters of commands.
  const free = [...names].filter(
    (name) => /^[a-z]/.test(name) && identOf({ name, value: '', isSecret: false }) === name,
  );
  expect(free).toEqual([]);
});
