import { type Phases, sumPhases } from '../model';
import { countUpTo } from './sorted';

/** What the bytes over time need of an exchange. */
export interface ByteSpan {
  readonly startMs: number;
  readonly timeMs: number;
  readonly phases: Phases;
  readonly wireBytes: number | undefined;
}

/** The wire bytes that had come until a moment; between two points they grow evenly. */
export interface BytePoint {
  readonly atMs: number;
  readonly bytes: number;
}

/**
 * Wire bytes over time, added up. A capture tells when a download began and ended, not how it went: its bytes are taken
 * to have come evenly. Without a download phase they came at the end. O(n log n).
 */
export function cumulateBytes(spans: Iterable<ByteSpan>): BytePoint[] {
  const changes: { readonly atMs: number; readonly perMs: number; readonly atOnce: number }[] = [];
  for (const { startMs, timeMs, phases, wireBytes } of spans) {
    if (wireBytes === undefined || wireBytes === 0) continue;
    const endMs = startMs + timeMs;
    const receiveMs = Math.min(timeMs, sumPhases(phases, ['receiveMs']) ?? 0);
    if (receiveMs <= 0) {
      changes.push({ atMs: endMs, perMs: 0, atOnce: wireBytes });
      continue;
    }
    const perMs = wireBytes / receiveMs;
    changes.push({ atMs: endMs - receiveMs, perMs, atOnce: 0 }, { atMs: endMs, perMs: -perMs, atOnce: 0 });
  }
  changes.sort((a, b) => a.atMs - b.atMs);
  const points: BytePoint[] = [];
  let bytes = 0;
  let perMs = 0;
  let since = changes[0]?.atMs ?? 0;
  for (const change of changes) {
    bytes += perMs * (change.atMs - since);
    points.push({ atMs: change.atMs, bytes });
    if (change.atOnce > 0) {
      bytes += change.atOnce;
      points.push({ atMs: change.atMs, bytes });
    }
    perMs += change.perMs;
    since = change.atMs;
  }
  return points;
}

/** The bytes that had come by a moment. */
export function bytesAt(points: readonly BytePoint[], ms: number): number {
  const at = countUpTo(points, ({ atMs }) => atMs, ms);
  const [before, after] = [points[at - 1], points[at]];
  if (before === undefined) return 0;
  if (after === undefined || after.atMs === before.atMs) return before.bytes;
  return before.bytes + ((after.bytes - before.bytes) * (ms - before.atMs)) / (after.atMs - before.atMs);
}
