import { readHttpDate } from '../http';
import { type Exchange, findField, findResponse, type NameValue, type ResponsePart } from '../model';
import { formatSpan } from '../wording';

/** What a lifetime rests on, in match order (RFC 9111 4.2.1, 4.2.2). */
export type FreshnessBasis = 'max-age' | 'expires' | 'heuristic' | 'none';

/** One step of the verdict: what it says, the header that decided it, and where the standard says so. */
export interface CacheStep {
  readonly says: string;
  readonly because: string;
  readonly section: string;
}

/** What a response allows a browser's own cache. Spans in seconds. */
export interface CachePolicy {
  readonly isStorable: boolean;
  /** How long it is fresh, from when it was made; absent where nothing tells, 0 where it never is. */
  readonly freshSeconds: number | undefined;
  readonly basis: FreshnessBasis;
  /** How old it was when it came (RFC 9111 4.2.3). */
  readonly ageSeconds: number;
  /** How long shared caches may keep it, where that is said apart. */
  readonly sharedSeconds: number | undefined;
  readonly mustAsk: boolean;
  /** The header by which it must be asked about each time. */
  readonly askedBy: string | undefined;
  readonly isImmutable: boolean;
  readonly isPublic: boolean;
  readonly isPrivate: boolean;
  readonly staleWhileRevalidateSeconds: number | undefined;
  readonly validators: readonly ('etag' | 'last-modified')[];
  /** A stale copy can be asked about: it has a validator, and a status of which browsers ask. */
  readonly isAskable: boolean;
  /** How the caches on the way say they dealt with it. */
  readonly shared: 'hit' | 'miss' | 'unknown';
  /** The header that says so; absent where none does. */
  readonly sharedBecause: string | undefined;
  readonly steps: readonly CacheStep[];
}

/** Statuses that may be kept without a lifetime of their own (RFC 9110 15.1). */
const HEURISTIC_STATUSES: ReadonlySet<number> = new Set([200, 203, 204, 206, 300, 301, 308, 404, 405, 410, 414, 501]);
/** Answers that say they are for good are kept without a lifetime. */
const PERMANENT_STATUSES: ReadonlySet<number> = new Set([300, 301, 308, 410]);
const FOR_GOOD_SECONDS = 365 * 86_400;
/** Those that browsers ask about with their validators; 304 stands for the copy. */
const ASKED_STATUSES: ReadonlySet<number> = new Set([200, 206, 304]);
/** Those that browsers guess a lifetime for. */
const GUESSED_STATUSES: ReadonlySet<number> = new Set([200, 203, 206]);
/** RFC 9111 4.2.2: a tenth of the time since it was last changed is typical. */
const HEURISTIC_SHARE = 0.1;

/**
 * The directives of Cache-Control (RFC 9111 5.2), names in lower case, the first of repeated ones; as browsers take them
 * apart: by commas alone, nothing between a name, its sign and its value.
 */
function readDirectives(headers: readonly NameValue[]): ReadonlyMap<string, string> {
  const directives = new Map<string, string>();
  for (const { name, value } of headers) {
    if (name.toLowerCase() !== 'cache-control') continue;
    for (const [part] of value.matchAll(/(?:[^,"]|"(?:[^"\\]|\\.)*"?)+/g)) {
      const [, key = '', content = ''] = /^\s*([\w-]+)(?:=(.*?))?\s*$/s.exec(part) ?? [];
      if (key !== '' && !directives.has(key.toLowerCase())) directives.set(key.toLowerCase(), content);
    }
  }
  return directives;
}

/** A number of seconds, in quotes or not (RFC 9111 5.2). */
const secondsOf = (text: string | undefined): number | undefined => {
  const plain = text?.replace(/^"(.*)"$/, '$1');
  return plain !== undefined && /^\d+$/.test(plain) ? Number(plain) : undefined;
};

/** What a response allows; undefined where none arrived. */
export function readPolicy(exchange: Exchange): CachePolicy | undefined {
  const response = findResponse(exchange);
  if (response === undefined) return undefined;
  const directives = readDirectives(response.headers);
  const header: Header = (name) => findField(response.headers, name);
  const steps: CacheStep[] = [];
  const storing = judgeStoring(exchange, response, directives);
  steps.push(storing.step);
  const freshness = judgeFreshness(response.status, directives, header, exchange.startedAt);
  const asksBecause = findAsking(directives, header);
  const has = (name: string): boolean => (header(name) ?? '').trim() !== '';
  const validators = [
    ...(has('etag') ? (['etag'] as const) : []),
    ...(has('last-modified') ? (['last-modified'] as const) : []),
  ];
  const ageSeconds = ageOf(header, exchange.startedAt);
  if (storing.isStorable) {
    const isExplicit = freshness.basis === 'max-age' || freshness.basis === 'expires';
    // How long a copy would be fresh that is never used as one need not be guessed.
    if (asksBecause === undefined || isExplicit) steps.push(freshness.step);
    if (ageSeconds > 0) {
      steps.push({
        says: `It was ${formatSpan(ageSeconds * 1000)} old on arrival.`,
        because: header('age') === undefined ? 'Date' : 'Age',
        section: 'RFC 9111 4.2.3',
      });
    }
    if (asksBecause !== undefined) {
      const isFresh = isExplicit && (freshness.seconds ?? 0) > 0;
      const says = isFresh
        ? 'All the same never used without revalidation, fresh or not.'
        : 'Never used without revalidation.';
      steps.push({ says, ...asksBecause });
    }
    const whenAsked = asksBecause === undefined ? 'When stale it' : 'It';
    steps.push(
      validatorStep(validators, response.status, whenAsked),
      ...furtherSteps(directives, header, asksBecause !== undefined),
    );
  }
  const shared = readShared(header);
  return {
    isStorable: storing.isStorable,
    freshSeconds: freshness.seconds,
    basis: freshness.basis,
    ageSeconds,
    sharedSeconds: secondsOf(directives.get('s-maxage')),
    mustAsk: asksBecause !== undefined,
    askedBy: asksBecause?.because,
    isImmutable: directives.has('immutable'),
    isPublic: directives.has('public'),
    isPrivate: directives.has('private'),
    staleWhileRevalidateSeconds: secondsOf(directives.get('stale-while-revalidate')),
    validators,
    isAskable: validators.length > 0 && ASKED_STATUSES.has(response.status),
    shared: shared.state,
    sharedBecause: shared.because,
    steps,
  };
}

/** What makes a copy be checked each time: browsers take the old Pragma for it too, whatever Cache-Control says beside. */
function findAsking(directives: ReadonlyMap<string, string>, header: Header): Omit<CacheStep, 'says'> | undefined {
  // With names behind it, it is about those headers alone.
  if (directives.get('no-cache') === '') return { because: 'no-cache', section: 'RFC 9111 5.2.2.4' };
  if (/no-cache/i.test(header('pragma') ?? '')) return { because: 'Pragma: no-cache', section: 'RFC 9111 5.4' };
  const isVaryAny =
    header('vary')
      ?.split(',')
      .some((name) => name.trim() === '*') === true;
  return isVaryAny ? { because: 'Vary: *', section: 'RFC 9111 4.1' } : undefined;
}

/** RFC 9111 3: what may be kept at all. */
function judgeStoring(
  exchange: Exchange,
  response: ResponsePart,
  directives: ReadonlyMap<string, string>,
): { readonly isStorable: boolean; readonly step: CacheStep } {
  const no = (says: string, because: string, section: string) => ({
    isStorable: false,
    step: { says, because, section },
  });
  const { method } = exchange.request;
  const { status } = response;
  if (method !== 'GET' && method !== 'HEAD')
    return no(`Responses to ${method} are not stored.`, method, 'RFC 9110 9.2.3');
  if (directives.get('no-store') === '') return no('Must not be stored.', 'no-store', 'RFC 9111 5.2.2.5');
  if (exchange.outcome.type === 'cut') return no('The body is incomplete.', 'the transfer', 'RFC 9111 3.3');
  if (status === 304)
    return {
      isStorable: true,
      step: { says: 'The stored copy is still valid.', because: 'status 304', section: 'RFC 9111 4.3.3' },
    };
  if (status === 401 || status === 407)
    return no('Browsers store no demand for credentials.', `status ${status}`, 'RFC 9110 11.4');
  if (status === 206) return no('Partial responses are not stored on their own.', 'status 206', 'RFC 9111 3.3');
  const isLeft = ['max-age', 's-maxage', 'public', 'private'].some((name) => directives.has(name));
  const hasExpires = findField(response.headers, 'expires') !== undefined;
  if (!HEURISTIC_STATUSES.has(status) && !isLeft && !hasExpires) {
    return no(`Status ${status} is stored only with an explicit lifetime.`, `status ${status}`, 'RFC 9111 3');
  }
  return { isStorable: true, step: { says: 'May be stored.', because: `status ${status}`, section: 'RFC 9111 3' } };
}

type Header = (name: string) => string | undefined;

interface Freshness {
  readonly seconds: number | undefined;
  readonly basis: FreshnessBasis;
  readonly step: CacheStep;
}

/** RFC 9111 4.2.1. */
function judgeFreshness(
  status: number,
  directives: ReadonlyMap<string, string>,
  header: Header,
  startedAt: number | undefined,
): Freshness {
  const maxAge = directives.get('max-age');
  const seconds = secondsOf(maxAge);
  // One that is no number browsers pass over.
  if (seconds !== undefined) {
    const says = seconds === 0 ? 'Never fresh.' : `Fresh for ${formatSpan(seconds * 1000)}.`;
    return { seconds, basis: 'max-age', step: { says, because: `max-age=${seconds}`, section: 'RFC 9111 4.2.1' } };
  }
  const made = readHttpDate(header('date')) ?? startedAt;
  const expires = header('expires');
  if (expires !== undefined) {
    const until = readHttpDate(expires);
    const seconds = until === undefined || made === undefined ? 0 : Math.max(0, (until - made) / 1000);
    const says = seconds === 0 ? 'Never fresh.' : `Fresh for ${formatSpan(seconds * 1000)}.`;
    return { seconds, basis: 'expires', step: { says, because: `Expires: ${expires}`, section: 'RFC 9111 5.3' } };
  }
  const changed = readHttpDate(header('last-modified'));
  const isGuessed = GUESSED_STATUSES.has(status) && !directives.has('must-revalidate');
  if (changed !== undefined && made !== undefined && made > changed && isGuessed) {
    const seconds = ((made - changed) / 1000) * HEURISTIC_SHARE;
    const says = `No explicit lifetime; browsers may use a heuristic of 10 % of its age: ${formatSpan(seconds * 1000)}.`;
    return { seconds, basis: 'heuristic', step: { says, because: 'Last-Modified', section: 'RFC 9111 4.2.2' } };
  }
  if (PERMANENT_STATUSES.has(status)) {
    const says = 'Permanent: browsers store it as long as they like.';
    return {
      seconds: FOR_GOOD_SECONDS,
      basis: 'heuristic',
      step: { says, because: `status ${status}`, section: 'RFC 9110 15.4' },
    };
  }
  return {
    seconds: undefined,
    basis: 'none',
    step: {
      says: 'No explicit lifetime, and no basis for a heuristic one.',
      because: 'no lifetime',
      section: 'RFC 9111 4.2.2',
    },
  };
}

/** RFC 9111 4.2.3, the greater of Age and the apparent age. */
function ageOf(header: Header, startedAt: number | undefined): number {
  const age = secondsOf(header('age')?.trim()) ?? 0;
  const date = readHttpDate(header('date'));
  // Date has whole seconds, and clocks differ a little: less than two seconds tell nothing.
  const apparent = date === undefined || startedAt === undefined ? 0 : (startedAt - date) / 1000;
  return Math.max(age, apparent >= 2 ? Math.floor(apparent) : 0);
}

/** @param whenAsked "When stale it", or "It" */
function validatorStep(validators: CachePolicy['validators'], status: number, whenAsked: string): CacheStep {
  const section = 'RFC 9111 4.3.1';
  const again = `${whenAsked} cannot be revalidated, only downloaded again.`;
  if (validators.length === 0) return { says: again, because: 'no ETag, no Last-Modified', section };
  if (!ASKED_STATUSES.has(status))
    return {
      says: `${whenAsked} is downloaded again: browsers revalidate only status 200.`,
      because: `status ${status}`,
      section,
    };
  return { says: `${whenAsked} can be revalidated (304).`, because: validators.join(' and '), section };
}

/**
 * What else directives say of a copy: when it may be used although it is outdated, who may keep it, for which requests.
 * @param isAlwaysAsked whether it is never used without asking: then the first says nothing
 */
function furtherSteps(directives: ReadonlyMap<string, string>, header: Header, isAlwaysAsked: boolean): CacheStep[] {
  const steps: CacheStep[] = [];
  const spanOf = (name: string): string | undefined => {
    const seconds = secondsOf(directives.get(name));
    return seconds === undefined ? undefined : formatSpan(seconds * 1000);
  };
  const add = (says: string, because: string, section: string): void => void steps.push({ says, because, section });
  const lifetime = directives.get('max-age');
  if (lifetime !== undefined && secondsOf(lifetime) === undefined)
    add('That is no number of seconds: browsers pass it over.', `max-age=${lifetime}`, 'RFC 9111 5.2.2.1');
  if (directives.has('immutable') && !isAlwaysAsked) {
    add('While fresh, not even a reload revalidates it.', 'immutable', 'RFC 8246 2');
  }
  const whileChecking = spanOf('stale-while-revalidate');
  if (whileChecking !== undefined && !isAlwaysAsked) {
    const says = `Up to ${whileChecking} after that it may be used while it is revalidated in the background.`;
    add(says, `stale-while-revalidate=${directives.get('stale-while-revalidate')}`, 'RFC 5861 3');
  }
  const onError = spanOf('stale-if-error');
  if (onError !== undefined && !isAlwaysAsked) {
    const says = `Up to ${onError} after that it may be used when the server fails.`;
    add(says, `stale-if-error=${directives.get('stale-if-error')}`, 'RFC 5861 4');
  }
  if (directives.has('must-revalidate')) {
    add(
      'When stale it must not be used without revalidation, even if the server fails.',
      'must-revalidate',
      'RFC 9111 5.2.2.2',
    );
  }
  const shared = spanOf('s-maxage');
  if (directives.has('private')) add('Only the browser may store it.', 'private', 'RFC 9111 5.2.2.7');
  else if (shared !== undefined) {
    const says = `Shared caches may use it for ${shared}.`;
    add(says, `s-maxage=${directives.get('s-maxage')}`, 'RFC 9111 5.2.2.10');
  } else if (directives.has('public')) add('Shared caches may store it, too.', 'public', 'RFC 9111 5.2.2.9');
  const vary = header('vary');
  if (vary !== undefined && vary.trim() !== '' && !vary.includes('*')) {
    add('Reused only for requests with the same values of these headers.', `Vary: ${vary}`, 'RFC 9111 4.1');
  }
  return steps;
}

/** What headers of the usual caches write where they had a copy, and where not. */
const HIT = /(?<![a-z])hit(?![a-z])/i;
const MISS = /(?<![a-z])(miss|expired|bypass|dynamic|pass)(?![a-z])/i;
const SHARED_HEADERS = ['x-cache', 'cf-cache-status', 'x-cache-status', 'x-proxy-cache', 'x-served-from'];

/** RFC 9211 2: each cache says that it gave its copy (hit), or why it asked on (fwd); one that says neither tells nothing. */
function readCacheStatus(value: string): CachePolicy['shared'] {
  const parameters = value
    .replace(/"(?:[^"\\]|\\.)*"/g, '""')
    .split(/[;,]/)
    .map((part) => part.trim().toLowerCase());
  if (parameters.some((part) => part === 'hit' || part === 'hit=?1')) return 'hit';
  return parameters.some((part) => part.startsWith('fwd=')) ? 'miss' : 'unknown';
}

/** RFC 9211 Cache-Status, then what the usual caches write in their own headers, then Age (RFC 9111 5.1). */
function readShared(header: Header): { readonly state: CachePolicy['shared']; readonly because: string | undefined } {
  const status = header('cache-status');
  if (status !== undefined) {
    const state = readCacheStatus(status);
    return { state, because: state === 'unknown' ? undefined : `Cache-Status: ${status}` };
  }
  for (const name of SHARED_HEADERS) {
    const value = header(name) ?? '';
    if (HIT.test(value)) return { state: 'hit', because: `${name}: ${value}` };
    if (MISS.test(value)) return { state: 'miss', because: `${name}: ${value}` };
  }
  const age = secondsOf(header('age')?.trim());
  return age !== undefined && age > 0
    ? { state: 'hit', because: `Age: ${age}` }
    : { state: 'unknown', because: undefined };
}
