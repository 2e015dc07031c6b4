import { describe, expect, it } from 'vitest';
import type { FailReason } from '../model';
import { isOfFailureWords, tellNoResponse, wordFailure } from './index';

const failed = (reason: FailReason, recorded?: string) => ({ type: 'no-response' as const, reason, recorded });

describe('what is said of a request without a recorded response', () => {
  it.each([
    ['refused', 'net::ERR_CONNECTION_REFUSED', 'No response arrived after 12 ms: net::ERR_CONNECTION_REFUSED.'],
    // CORS may be behind it, and then there was one.
    ['unknown', 'net::ERR_FAILED', 'No response reached the page after 12 ms: net::ERR_FAILED.'],
    ['unknown', undefined, 'No response reached the page after 12 ms, and the capture does not say why.'],
    [
      'response-blocked',
      'net::ERR_BLOCKED_BY_ORB',
      'A response came, and the browser kept it from the page: net::ERR_BLOCKED_BY_ORB.',
    ],
    [
      'not-upgraded',
      'Unexpected response code: 403.',
      'The server did not let the connection be upgraded: Unexpected response code: 403.',
    ],
    [
      'invalid-http',
      'net::ERR_INVALID_HTTP_RESPONSE',
      'What came was no valid response: net::ERR_INVALID_HTTP_RESPONSE.',
    ],
    ['too-many-redirects', 'net::ERR_TOO_MANY_REDIRECTS', 'One more redirect came: net::ERR_TOO_MANY_REDIRECTS.'],
  ] as const)('%s', (reason, recorded, sentence) => {
    expect(tellNoResponse(failed(reason, recorded), 12)).toBe(sentence);
  });

  it.each([
    ['no response', true],
    ['esp', true],
    ['response: net', true],
    ['no valid response: net::', true],
    ['the page', true],
    ['cut off after status 200: x', true],
    ['status 404', true],
    ['status', true],
    ['hut', false],
    ['status of', false],
  ])('may be what is looked for: %s', (text, isOurs) => {
    expect(isOfFailureWords(text)).toBe(isOurs);
  });

  it('is short in lists, and does not say that none came where one was blocked', () => {
    expect(wordFailure(failed('offline', 'x'))).toBe('no response: x');
    expect(wordFailure(failed('blocked-by-corp'))).toBe('response kept from the page');
  });
});
