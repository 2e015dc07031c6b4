import { BUSY } from '../convert';
import { readHttpDate } from '../http';
import { findHeader, type NameValue } from '../model';

/** How long to wait before the same is asked again. */
export interface Wait {
  readonly ms: number;
  /** The server said so. */
  readonly isAsked: boolean;
}

/** So often it is tried, the first time among them. */
const MOST_TRIES = 4;
/** Nobody waits longer than this for one response. */
const LONGEST_MS = 10 * 60_000;

/**
 * How long to wait before asking again; undefined where the response is the one that counts, or all tries are used up.
 * @param tries how often it was asked by now
 */
export function waitBefore(
  tries: number,
  outcome: { readonly status: number; readonly headers: readonly NameValue[] } | undefined,
  nowMs: number,
): Wait | undefined {
  if (tries >= MOST_TRIES || (outcome !== undefined && !BUSY.some((status) => status === outcome.status)))
    return undefined;
  const asked = outcome === undefined ? undefined : retryAfterMs(findHeader(outcome.headers, 'retry-after'), nowMs);
  if (asked !== undefined) return asked > LONGEST_MS ? undefined : { ms: asked, isAsked: true };
  return { ms: 1000 * 2 ** (tries - 1), isAsked: false };
}

/** What Retry-After says (RFC 9110 10.2.3): seconds, or a moment. */
function retryAfterMs(value: string | undefined, nowMs: number): number | undefined {
  if (value === undefined) return undefined;
  if (/^\s*\d+\s*$/.test(value)) return Number(value) * 1000;
  const at = readHttpDate(value);
  return at === undefined ? undefined : Math.max(0, at - nowMs);
}
