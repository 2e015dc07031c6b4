import { expect, it } from 'vitest';
import { COMPUTED, type Computed, hashOfCode } from '../scripts/computed-by';
import versions from './core/versions.json';

it.each(Object.keys(COMPUTED) as Computed[])(
  'has a version of the %s that is of the code as it is: after a change "npm run versions" raises it',
  async (what) => expect(await hashOfCode(what)).toBe(versions[what].code),
);
