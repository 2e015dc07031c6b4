import { explain } from '../entry';

/** Moments of a page load. */
export const MILESTONES = explain('milestone', [
  [
    'DOM ready',
    'The document is parsed and its deferred scripts have run: the DOMContentLoaded event. HAR: onContentLoad.',
    'HTML, the end of parsing',
    ['domcontentloaded', 'dcl', 'oncontentload', 'document ready', 'domready'],
  ],
  [
    'loaded',
    'The load event: everything that the document asked for while it was loading has arrived or failed. HAR: onLoad. What a page fetches later does not hold it up.',
    'HTML, the end of parsing',
    ['onload', 'load event', 'load time', 'page load'],
  ],
  [
    'first paint',
    'The first time that the page drew anything. In a capture only where the recorder wrote it as a page timing of its own.',
    'Paint Timing',
    ['fp', 'first contentful paint', 'fcp', 'largest contentful paint', 'lcp', 'render'],
  ],
]);
