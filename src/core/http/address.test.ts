import { expect, it } from 'vitest';
import { formDecoded, isLoopback, queryOf, splitUrl } from './index';

it.each([
  ['https://a.example/x?page=2&q=a%20b#top', '?page=2&q=a%20b'],
  ['https://a.example/x?', '?'],
  ['https://a.example/x', ''],
  ['https://a.example/#/huts?page=9', ''],
  ['https://a.example/x?a=b?c', '?a=b?c'],
  ['not an address?but=queried', '?but=queried'],
  ['', ''],
])('the query of %j is %j', (url, query) => {
  expect(queryOf(url)).toBe(query);
});

it.each([
  [
    'wss://live.cumbrera.example:8443/beds?hut=a#b',
    { scheme: 'wss', origin: 'wss://live.cumbrera.example:8443', authority: 'live.cumbrera.example:8443' },
    { user: undefined, host: 'live.cumbrera.example', port: '8443', path: '/beds', query: '?hut=a', fragment: '#b' },
  ],
  [
    'HTTP://ana:a@b:c@[::1]:80',
    { scheme: 'HTTP', origin: 'HTTP://ana:a@b:c@[::1]:80', authority: 'ana:a@b:c@[::1]:80' },
    { user: 'ana:a@b:c', host: '[::1]', port: '80', path: '', query: '', fragment: '' },
  ],
  [
    'https://a.example:?x=/y@z',
    { scheme: 'https', origin: 'https://a.example:', authority: 'a.example:' },
    { user: undefined, host: 'a.example', port: '', path: '', query: '?x=/y@z', fragment: '' },
  ],
])('%s is split as it is written', (url, front, rest) => expect(splitUrl(url)).toEqual({ ...front, ...rest }));

it.each(['about:blank', 'data:text/plain,https://a.example/', '/huts', '//a.example/x', ''])('%j has no host', (url) =>
  expect(splitUrl(url)).toBeUndefined(),
);

it.each([
  'http://localhost:8080/a',
  'http://huts.LOCALHOST',
  'http://127.0.0.1',
  'ws://127.9.9.9/a',
  'http://[::1]:3000/',
])('%s is this computer', (url) => expect(isLoopback(url)).toBe(true));

it.each([
  ...['http://localhost.cumbrera.example/', 'http://127.cumbrera.example', 'http://notlocalhost', 'http://128.0.0.1'],
  ...['http://a.example/localhost', 'http://localhost@a.example/', 'http://127.0.0.1.a.example', 'localhost'],
])('%s is not', (url) => expect(isLoopback(url)).toBe(false));

it.each([
  ['50%25+off+10%', '50% off 10%'],
  ['%C3%BC%ff', '%C3%BC%ff'],
  ['%C3%BC+%ff', 'ü %ff'],
  ['%F0%9F%98%80%', '😀%'],
  ['%2', '%2'],
])('%s in a form says %s', (text, said) => expect(formDecoded(text)).toBe(said));
