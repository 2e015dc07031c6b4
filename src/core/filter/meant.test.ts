import { describe, expect, it } from 'vitest';
import { meantFilter } from './meant';
import { parseFilter } from './parse';

describe('the filter that is meant', () => {
  it.each([
    ['404', 'status = 404'],
    ['4xx', 'status = 4xx'],
    ['status:404', 'status = 404'],
    ['code:>=400', 'status >= 400'],
    ['is:failed', 'failed'],
    ['failed api', 'failed and kind = data'],
    ['failed 500', 'failed and status = 500'],
    ['method:post', 'method = POST'],
    ['domain:img', 'host ~ img'],
    ['type:js', 'kind = script'],
    ['slow beds', 'time > 1 s and beds'],
    ['-js', 'not kind = script'],
    ['json warden', 'mime ~ json and warden'],
    ['errors', '(failed or errors)'],
  ])('by %s is %s', (typed, meant) => {
    expect(meantFilter(typed)).toBe(meant);
    expect(parseFilter(meant).ok).toBe(true);
  });

  it.each([
    '',
    'warden',
    'beds/alba-norte',
    '4040',
    '999',
    'failed',
    'kind = data',
    'https://www.cumbrera.example:8080/huts',
    'nothing:here',
    '__proto__',
    'constructor:1',
    'is:toString',
    'one two three four five six 404',
  ])('by %j is nothing else', (typed) => expect(meantFilter(typed)).toBeUndefined());
});
