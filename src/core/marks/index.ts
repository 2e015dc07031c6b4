// What somebody marks and notes in a capture: exchanges, findings, legs of a route, pages.
export { Comments, marksOfComment } from './comments';
export { legName, type Mark, type MarkChange, type MarkTarget, markKey, readMarkKey } from './mark';
