import type { CaptureOverview, PageOverview } from '#core/analysis';
import { UsageError } from './input';

/** More ids than these are not listed. */
const IDS_LISTED = 5;

/**
 * The pages that one names: by an id, by the id of a recorded page that was taken apart into navigations, or by its place
 * among the capture's pages from 1 on; an id of that very number goes first.
 * @throws UsageError where there is none
 */
export function findPages({ pages }: CaptureOverview, asked: string): readonly [PageOverview, ...PageOverview[]] {
  const [first, ...more] = pages.filter(({ id }) => id === asked || id.startsWith(`${asked}#`));
  if (first !== undefined) return [first, ...more];
  const numbered = /^#?[1-9]\d{0,8}$/.test(asked) ? pages[Number(asked.replace('#', '')) - 1] : undefined;
  if (numbered !== undefined) return [numbered];
  throw new UsageError(`There is no page "${asked}"; ${tellThose(pages)}.`);
}

function tellThose(pages: readonly PageOverview[]): string {
  const [only] = pages;
  if (only === undefined) return 'the capture has none';
  if (pages.length === 1) return `the capture has one, ${only.id}`;
  const ids = pages.slice(0, IDS_LISTED).map(({ id }) => id);
  const listed = pages.length > IDS_LISTED ? `${ids.join(', ')} …` : ids.join(', ');
  return `the capture has pages 1 to ${pages.length}: ${listed}`;
}
