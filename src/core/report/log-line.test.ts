import { describe, expect, it } from 'vitest';
import { type JsonObject, normaliseEntry } from '../har';
import { logLine } from './log-line';

const lineOf = (
  url: string,
  request: Readonly<Record<string, string>> = {},
  response: Readonly<Record<string, string>> = {},
  startedDateTime = '2026-10-03T09:14:07.250Z',
  offset = 0,
) => {
  const listOf = (headers: Readonly<Record<string, string>>) =>
    Object.entries(headers).map(([name, value]) => ({ name, value }));
  const entry = {
    startedDateTime,
    request: { method: 'POST', url, headers: listOf(request) },
    response: { status: 500, headers: listOf(response) },
  };
  return logLine(normaliseEntry(entry as unknown as JsonObject, 0), offset);
};

describe('what a log is searched with', () => {
  it('is the instant to the millisecond in the zone that is shown, method and path', () => {
    expect(lineOf('https://a.example/beds?day=3#top')).toBe('2026-10-03T09:14:07.250Z POST /beds?day=3');
    expect(lineOf('https://a.example', {}, {}, undefined, 120)).toBe('2026-10-03T11:14:07.250+02:00 POST /');
    expect(lineOf('https://a.example/x', {}, {}, undefined, -210)).toBe('2026-10-03T05:44:07.250-03:30 POST /x');
    expect(lineOf('https://a.example/x', {}, {}, 'soon')).toBe('POST /x');
  });

  it.each([
    [{}, { 'X-Request-Id': 'made-1' }, ' made-1'],
    [{ 'x-correlation-id': 'c-7' }, { 'X-Request-ID': 'r-8' }, ' r-8 c-7'],
    [{ 'request-id': 'same' }, { 'request-id': 'same' }, ' same'],
    [
      { traceparent: '00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01' },
      {},
      ' 4bf92f3577b34da6a3ce929d0e0e4736',
    ],
    [{ traceparent: 'nonsense' }, { 'x-trace-id': '' }, ''],
    [{ 'x-hut-id': '7', 'grid-id': '8' }, {}, ''],
  ])('has the ids of %j and %j', (request, response, ids) =>
    expect(lineOf('https://a.example/x', request, response)).toBe(`2026-10-03T09:14:07.250Z POST /x${ids}`),
  );
});
