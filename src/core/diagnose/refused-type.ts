import type { ExchangeRow } from '../analysis';
import { browserType, isScriptType } from '../http';
import type { Evidence } from './evidence';
import type { Matter, Subject } from './finding';
import { goesElsewhere } from './origin';

/** Why browsers do not use a script or a style, by its type alone. */
export interface TypeRefusal {
  /** What follows the name: "is a script of type …". */
  readonly words: string;
  readonly many: string;
  readonly remedy: string;
  readonly confidence: Matter['confidence'];
}

/** What may be a script's type as little as a style's (Fetch 2.2.6, should response be blocked due to its MIME type). */
const NEVER_RUN = /^(?:image|audio|video)\/|^text\/csv$/;
/** A recorder's or a server's word for no type at all. */
const NO_TYPE = 'application/x-unknown-content-type';

/**
 * Why browsers refuse a script or a style for its type: with nosniff any other (Fetch 2.2.6, should response be blocked due
 * to nosniff), a style of another type but in quirks mode (HTML 4.2.4.3), scripts of pictures' types, and modules of any
 * but JavaScript's (HTML 8.1.4.2). Undefined where they take it.
 */
export function findRefusal(subject: Subject, row: ExchangeRow, evidence: Evidence): TypeRefusal | undefined {
  const { kind, mimeType, bodyBytes } = row;
  // What is empty is missed by nobody.
  if ((kind !== 'script' && kind !== 'style') || bodyBytes === 0) return undefined;
  const { requestHeaders, responseHeaders } = evidence;
  const contentType = responseHeaders.get('content-type') ?? mimeType ?? '';
  const type = browserType(contentType);
  if (type !== undefined && (kind === 'script' ? isScriptType(type) : type === 'text/css')) return undefined;
  const remedy = `Send it as ${kind === 'style' ? 'text/css' : 'text/javascript'}; a missing file answered with something else looks the same.`;
  const refused = (how: string, confidence: Matter['confidence']): TypeRefusal => {
    const of = type === undefined ? 'without a type' : `of type ${type}`;
    return { words: `is a ${kind} ${of}, ${how}`, many: `are ${kind}s ${of}, ${how}`, remedy, confidence };
  };
  if (isNosniff(responseHeaders.get('x-content-type-options')))
    return refused('which browsers refuse with nosniff', 'certain');
  if (kind === 'style') {
    if (type === undefined || type === NO_TYPE) return undefined;
    return goesElsewhere(subject, row)
      ? refused('which browsers do not use', 'certain')
      : refused('which browsers use in pages without a doctype only', 'strong');
  }
  if (type !== undefined && NEVER_RUN.test(type)) return refused('which browsers refuse', 'certain');
  // A page's own classic scripts are hardly asked for by CORS; others are where they say crossorigin.
  const isByCors = requestHeaders.get('sec-fetch-mode') === 'cors';
  if (!isByCors) return undefined;
  const isOwn = requestHeaders.get('sec-fetch-site') === 'same-origin';
  return refused('which browsers refuse where it is a module', isOwn ? 'strong' : 'weak');
}

/** The first of its values counts (Fetch 3.6). */
const isNosniff = (value: string | undefined): boolean => /^\s*nosniff\s*(?:,|$)/i.test(value ?? '');
