import { expect, it } from 'vitest';
import { isRedirectStatus } from './index';

it.each([
  [undefined, false],
  [200, false],
  [299, false],
  [300, true],
  [301, true],
  [303, true],
  [304, false],
  [308, true],
  [399, true],
  [400, false],
])('%j is a status that leads elsewhere: %s', (status, leads) => expect(isRedirectStatus(status)).toBe(leads));
