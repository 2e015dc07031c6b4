import { describe, expect, it } from 'vitest';
import { isAllowedByCsp } from './csp';

const PAGE = 'https://www.cumbrera.example/huts';

describe('Content-Security-Policy', () => {
  it.each([
    ['', 'https://api.cumbrera.example/a', true],
    ["script-src 'none'", 'https://api.cumbrera.example/a', true],
    ["connect-src 'self'", 'https://www.cumbrera.example/a', true],
    ["connect-src 'self'", 'https://www.cumbrera.example:6000/a', false],
    ["connect-src 'self'", 'https://api.cumbrera.example/a', false],
    ["connect-src 'self'", 'wss://www.cumbrera.example/live', true],
    ["default-src 'self'", 'https://api.cumbrera.example/a', false],
    ["default-src 'self'; connect-src https:", 'https://api.cumbrera.example/a', true],
    ["default-src *; connect-src 'none'", 'https://api.cumbrera.example/a', false],
    ['connect-src *.cumbrera.example', 'https://api.cumbrera.example/a', true],
    ['connect-src *.cumbrera.example', 'https://cumbrera.example/a', false],
    ['connect-src *.cumbrera.example', 'https://notcumbrera.example/a', false],
    ['connect-src https://API.cumbrera.example', 'https://api.cumbrera.example/a', true],
    ['connect-src api.cumbrera.example', 'http://api.cumbrera.example/a', false],
    ['connect-src http://api.cumbrera.example', 'https://api.cumbrera.example/a', true],
    ['connect-src http:', 'https://api.cumbrera.example/a', true],
    ['connect-src api.cumbrera.example:8443', 'https://api.cumbrera.example/a', false],
    ['connect-src api.cumbrera.example:*', 'https://api.cumbrera.example:8443/a', true],
    ['connect-src api.cumbrera.example/v1/', 'https://api.cumbrera.example/v1/huts', true],
    ['connect-src api.cumbrera.example/v1/', 'https://api.cumbrera.example/v2/huts', false],
    ['connect-src api.cumbrera.example/v1?x=1', 'https://api.cumbrera.example/v1?y=2', true],
    ['connect-src http://api.cumbrera.example:80', 'https://api.cumbrera.example/a', true],
    ['connect-src http://api.cumbrera.example:80', 'https://api.cumbrera.example:8443/a', false],
    ['connect-src *', 'data:text/plain,x', false],
    ['connect-src *, connect-src other.example', 'https://api.cumbrera.example/a', false],
    ["connect-src 'self'; connect-src *", 'https://api.cumbrera.example/a', false],
    ['CONNECT-SRC *', 'https://api.cumbrera.example/a', true],
  ])('%s: %s is let through: %s', (policy, url, isAllowed) => {
    expect(isAllowedByCsp(policy, 'connect-src', url, PAGE)).toBe(isAllowed);
  });

  it('does not judge what is no address', () => {
    expect(isAllowedByCsp("connect-src 'self'", 'connect-src', '', PAGE)).toBeUndefined();
  });
});
