import { expect, it } from 'vitest';
import { groupBy } from './index';

it('groups by key in the order in which keys first come, and leaves out what has none', () => {
  const groups = groupBy(['hut', 'beds', 'hall', '', 'bench'], ([first]) => first);
  expect([...groups]).toEqual([
    ['h', ['hut', 'hall']],
    ['b', ['beds', 'bench']],
  ]);
});
