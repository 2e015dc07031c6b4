import type { Sameness } from '../trial';
import { formatPlural } from '../wording';
import { type Part, partName } from './parts';
import type { Found } from './search';

const MOST_NAMED = 4;

/** What a trial leaves out: by name where these are few; else what it still has, by name or by number. */
export function tellLeftOut(parts: readonly Part[], all: readonly Part[]): string {
  if (parts.length <= MOST_NAMED) return `without ${parts.map(partName).join(', ')}`;
  const gone = new Set(parts.flatMap((part) => [part.key, ...part.inside.map(({ key }) => key)]));
  const kept = all.flatMap((part) => [part, ...part.inside]).filter(({ key }) => !gone.has(key));
  if (kept.length === 0) return 'without any of them';
  if (kept.length <= MOST_NAMED) return `only ${kept.map(partName).join(', ')}`;
  const counts = new Map<string, number>();
  for (const { what } of parts) counts.set(what, (counts.get(what) ?? 0) + 1);
  return `without ${[...counts].map(([what, count]) => formatPlural(count, what)).join(', ')}`;
}

/** What a response is that is not the same: "401", "$.items is missing", "$.page is different, and 2 other places". */
export function tellWithout({ differences }: Sameness, status: number): string {
  const counted = differences.filter(({ changes }) => changes === undefined);
  const [first] = counted;
  if (first === undefined) return String(status);
  if (first.of === 'status') return String(status);
  if (first.of === 'value') {
    const others = counted.length - 1;
    return `${first.place} is different${others === 0 ? '' : `, and ${formatPlural(others, 'other place')}`}`;
  }
  return `${first.place} is ${first.is === undefined ? 'missing' : first.was === undefined ? 'new' : 'of another type'}`;
}

/** What a trim found, in a sentence. @param why it ended: all was asked, somebody stopped it, or so many were sent */
export function tellFound(
  { needed, leftOut, isProven }: Found<Part>,
  why: 'whole' | 'stopped' | 'most',
  most = 0,
): string {
  const all = needed.length + leftOut.length;
  if (why === 'whole') {
    if (needed.length === 0) return `None of the ${formatPlural(all, 'part')} is needed.`;
    const are = needed.length === 1 ? 'is' : 'are';
    const each = needed.length === 1 ? 'the response differs without it' : 'each makes a difference';
    return `${needed.length} of ${formatPlural(all, 'part')} ${are} needed: ${each}.`;
  }
  const end = why === 'stopped' ? 'Stopped' : `Stopped after ${formatPlural(most, 'trial')}`;
  if (leftOut.length === 0) return `${end}: nothing could be left out by then.`;
  const rest = isProven ? 'are needed' : 'may be needed, or not';
  return `${end}: ${formatPlural(leftOut.length, 'part')} can be left out, the other ${needed.length} ${rest}.`;
}

/** Why a part is needed: "without it 401; header authorization would do instead". */
export function tellReason({ part, reason, orElse }: Found<Part>['needed'][number]): string {
  if (reason === undefined) return 'not tried alone';
  const name = part.what === 'cookie' ? `without ${part.name} ` : 'without it ';
  const instead = orElse.length === 0 ? '' : `; ${orElse.map(partName).join(' with ')} would do instead`;
  return `${name}${reason}${instead}`;
}
