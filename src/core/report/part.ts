import type { PageOverview } from '../analysis';
import { isObject, type Json, type JsonObject } from '../har';
import type { PageId } from '../model';

/**
 * The pages of a file that holds a part of a capture. A recorded page may hold several navigations, and its milestones
 * belong to the last: a part of one alone gets that one's start and milestones, or it would be read as having loaded when
 * another did. All else stays as it was recorded.
 * @param pages as recorded (HAR 1.2 `pages`)
 * @param overviews the pages that the analysis found in them
 * @param used the pages of the exchanges in the part
 */
export function pagesOfPart(
  pages: readonly Json[],
  overviews: readonly PageOverview[],
  used: ReadonlySet<PageId | undefined>,
): Json[] {
  const ids = pages.map((page) => (isObject(page) && typeof page.id === 'string' ? page.id : undefined));
  return pages.map((page, at) => {
    const id = ids[at];
    // Pages of the same id are told apart by their starts alone: they are left as they are.
    if (id === undefined || !isObject(page) || ids.indexOf(id) !== ids.lastIndexOf(id)) return page;
    const navigations = overviews.filter((overview) => isNavigationOf(overview.id, id));
    const [only, ...others] = navigations.filter((overview) => used.has(overview.id));
    if (navigations.length < 2 || only === undefined || others.length > 0) return page;
    return asNavigation(page, only);
  });
}

const isNavigationOf = (id: string, page: string): boolean =>
  id.startsWith(`${page}#`) && /^\d+$/.test(id.slice(page.length + 1));

function asNavigation(page: JsonObject, { title, startedAt, domReadyMs, loadedMs }: PageOverview): JsonObject {
  const said = 'Its start and times are those of one navigation of the page that was recorded.';
  return {
    ...page,
    ...(title === '' ? {} : { title }),
    ...(startedAt === undefined ? {} : { startedDateTime: new Date(startedAt).toISOString() }),
    // HAR 1.2: -1 where a time does not apply.
    pageTimings: { onContentLoad: domReadyMs ?? -1, onLoad: loadedMs ?? -1 },
    comment: typeof page.comment === 'string' && page.comment !== '' ? `${page.comment} ${said}` : said,
  };
}
