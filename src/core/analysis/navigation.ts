import { groupBy } from '../collections';
import { isRedirectStatus } from '../http';
import { type EpochMs, type Milestone, type Page, type PageId, pageId } from '../model';
import { countUpTo } from '../timing';
import type { ExchangeFacts } from './facts';

/**
 * A HAR page may be a tab, not a navigation: then several navigations share it, its milestones belong to the last of
 * them, and count from the tab's start. Such a page is taken apart into one page for each navigation; the boundaries
 * are inferred from its top-level documents. An exchange belongs to the navigation in force when it started.
 */
export function splitNavigations(facts: readonly ExchangeFacts[], pages: readonly Page[]): NavigationSplit {
  const byId = groupBy(pages, ({ id }) => id);
  const navigations = groupBy(facts, ({ isNavigation, pageId: id }) => (isNavigation ? id : undefined));
  const split = [...byId.values()].map(([page, ...same]) => ({
    page,
    parts: same.length === 0 ? splitPage(navigations.get(page.id) ?? [], page) : namesakes([page, ...same]),
  }));
  return {
    pages: split.flatMap(({ page, parts }) => parts ?? [page]),
    partsOf: new Map(split.flatMap(({ page, parts }) => (parts === undefined ? [] : [[page.id, parts] as const]))),
  };
}

/** Pages that a recorder gave one id: told apart by their starts, an exchange belongs to the one in force. */
const namesakes = (pages: readonly Page[]): Page[] =>
  [...pages]
    .sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0))
    .map((page, place) => ({ ...page, id: pageId(`${page.id}#${place + 1}`) }));

export interface NavigationSplit {
  readonly pages: readonly Page[];
  /** The navigations, or pages of the same id, of each page that was taken apart, in the order of their starts. */
  readonly partsOf: ReadonlyMap<PageId, readonly Page[]>;
}

function splitPage(facts: readonly ExchangeFacts[], page: Page): Page[] | undefined {
  const starts = findNavigationStarts(facts);
  if (starts.length < 2) return undefined;
  return starts.map(({ at, title }, place) => {
    const isLast = place === starts.length - 1;
    // The first navigation keeps the tab's start: what came before its document belongs to it.
    const startedAt = place === 0 ? (page.startedAt ?? at) : at;
    const shiftMs = page.startedAt === undefined ? 0 : startedAt - page.startedAt;
    return {
      id: pageId(`${page.id}#${place + 1}`),
      title: isLast && page.title !== '' ? page.title : title,
      startedAt,
      milestones: isLast ? shift(page.milestones, shiftMs) : [],
    };
  });
}

const shift = (milestones: readonly Milestone[], byMs: number): Milestone[] =>
  milestones.flatMap((milestone) => (milestone.atMs < byMs ? [] : [{ ...milestone, atMs: milestone.atMs - byMs }]));

interface NavigationStart {
  readonly at: EpochMs;
  readonly title: string;
}

/** The starts of a page's navigations; the hops of a redirect are one navigation with where they lead. */
function findNavigationStarts(facts: readonly ExchangeFacts[]): NavigationStart[] {
  const documents = facts
    .filter((fact) => fact.isNavigation && fact.startedAt !== undefined)
    .sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0));
  const [first] = documents;
  const starts: NavigationStart[] = [];
  let follows = false;
  for (const document of documents) {
    if (document.frame !== first?.frame || document.startedAt === undefined) continue;
    if (!follows) starts.push({ at: document.startedAt, title: document.url });
    const { status } = document;
    follows = isRedirectStatus(status);
  }
  return starts;
}

/** The navigation in force at an instant, among those of one page. */
export function navigationAt(parts: readonly Page[], at: EpochMs | undefined): PageId | undefined {
  const begun = at === undefined ? 0 : countUpTo(parts, (part) => part.startedAt ?? 0, at);
  return (parts[begun - 1] ?? parts[0])?.id;
}
