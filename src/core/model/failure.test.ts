import { describe, expect, it } from 'vitest';
import { type Failure, packFailure, unpackFailure } from './failure';

describe('a failure as one text', () => {
  it.each<Failure>([
    { type: 'no-response', reason: 'unknown', recorded: undefined },
    { type: 'no-response', reason: 'refused', recorded: '{"net::ERR_CONNECTION_REFUSED"}' },
    { type: 'cut-off', status: 206, reason: 'reset', recorded: 'gone' },
    { type: 'status', status: 503, statusText: 'Busy' },
  ])('is read back: %j', (failure) => expect(unpackFailure(packFailure(failure))).toEqual(failure));

  it('is none where there is none, and keeps what an older version wrote', () => {
    expect([packFailure(undefined), unpackFailure(undefined), unpackFailure(null)]).toEqual([
      undefined,
      undefined,
      undefined,
    ]);
    expect(unpackFailure('no response: net::ERR_FAILED')).toEqual({
      type: 'no-response',
      reason: 'unknown',
      recorded: 'no response: net::ERR_FAILED',
    });
  });
});
