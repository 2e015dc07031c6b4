import { describe, expect, it } from 'vitest';
import type { PageOverview } from '../analysis';
import type { Json } from '../har';
import type { PageId } from '../model';
import { pagesOfPart } from './part';

const recorded = {
  id: 'tab',
  title: 'Tab',
  startedDateTime: '2026-03-01T08:00:00.000Z',
  pageTimings: { onLoad: 6050 },
};
const overview = (id: string, more: Partial<PageOverview> = {}): PageOverview =>
  ({ id, title: `Title of ${id}`, startedAt: Date.UTC(2026, 2, 1, 8), ...more }) as unknown as PageOverview;
const navigations = [
  overview('tab#1'),
  overview('tab#2', { startedAt: Date.UTC(2026, 2, 1, 8, 0, 5), domReadyMs: 400, loadedMs: 1050 }),
];
const part = (used: readonly string[], pages: readonly Json[] = [recorded], overviews = navigations): Json[] =>
  pagesOfPart(pages, overviews, new Set(used as readonly PageId[]));

describe('the pages of a part of a capture', () => {
  it('have the start and the milestones of the one navigation that it is of', () => {
    expect(part(['tab#1'])).toMatchObject([
      {
        id: 'tab',
        title: 'Title of tab#1',
        startedDateTime: '2026-03-01T08:00:00.000Z',
        pageTimings: { onContentLoad: -1, onLoad: -1 },
        comment: 'Its start and times are those of one navigation of the page that was recorded.',
      },
    ]);
    expect(part(['tab#2'], [{ ...recorded, comment: 'Slow.' }])).toMatchObject([
      {
        startedDateTime: '2026-03-01T08:00:05.000Z',
        pageTimings: { onContentLoad: 400, onLoad: 1050 },
        comment: 'Slow. Its start and times are those of one navigation of the page that was recorded.',
      },
    ]);
  });

  it.each<[string, string[], Json[], PageOverview[]]>([
    ['several navigations', ['tab#1', 'tab#2'], [recorded], navigations],
    ['none of it', [], [recorded], navigations],
    [
      'a page of one navigation, whose id looks like a part',
      ['tab#1'],
      [{ ...recorded, id: 'tab#1' }],
      [overview('tab#1')],
    ],
    ['a page whose id begins like another', ['tab#1'], [{ ...recorded, id: 'ta' }], navigations],
    ['pages of the same id', ['tab#1'], [recorded, recorded], navigations],
    ['what is no page', ['tab#1'], [null, 7, { title: 'x' }], navigations],
  ])('stay as they were recorded for %s', (_, used, pages, overviews) => {
    expect(part(used, pages, overviews)).toEqual(pages);
  });
});
