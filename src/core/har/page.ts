import { type Milestone, type Page, pageId } from '../model';
import { readInstant } from './instant';
import { asAmount, asText, isObject, type Json, member } from './shape';

/**
 * Reads one page of `log.pages` (HAR 1.2). `onContentLoad` is DOM ready, `onLoad` is loaded; further numbers in
 * pageTimings become milestones under the recorder's own name. -1 means that the event was never seen.
 * @param place index in `log.pages`, which names a page that has no id
 */
export function normalisePage(raw: Json, place: number): Page {
  const timings = member(raw, 'pageTimings');
  return {
    id: pageId(asText(member(raw, 'id')) ?? `page ${place + 1}`),
    title: asText(member(raw, 'title')) ?? '',
    startedAt: readInstant(member(raw, 'startedDateTime'))?.at,
    milestones: isObject(timings) ? readMilestones(timings) : [],
  };
}

function readMilestones(timings: Json): Milestone[] {
  const milestones: Milestone[] = [];
  for (const key of isObject(timings) ? Object.keys(timings) : []) {
    const atMs = asAmount(member(timings, key));
    if (atMs === undefined) continue;
    if (key === 'onContentLoad') milestones.push({ id: 'domReady', label: 'DOM ready', atMs });
    else if (key === 'onLoad') milestones.push({ id: 'loaded', label: 'loaded', atMs });
    else milestones.push({ id: 'other', label: milestoneLabel(key), atMs });
  }
  return milestones.sort((a, b) => a.atMs - b.atMs);
}

/** "_firstContentfulPaint" becomes "first contentful paint". */
const milestoneLabel = (key: string): string =>
  key
    .replace(/^_+/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replaceAll('_', ' ')
    .toLowerCase();
