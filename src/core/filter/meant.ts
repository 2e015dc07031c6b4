import { parseFilter } from './parse';

/** What people call fields elsewhere, or for short, by the name that a filter has for it. */
const FIELDS: Readonly<Record<string, string>> = {
  status: 'status',
  code: 'status',
  method: 'method',
  verb: 'method',
  host: 'host',
  domain: 'host',
  url: 'url',
  path: 'path',
  kind: 'kind',
  type: 'kind',
  mime: 'mime',
  size: 'wire',
  bytes: 'wire',
  duration: 'time',
  time: 'time',
  wait: 'wait',
  ttfb: 'wait',
  party: 'party',
  source: 'source',
  protocol: 'protocol',
  endpoint: 'endpoint',
  operation: 'operation',
};
/** Of these a part is meant. */
const BY_PART = new Set(['host', 'url', 'path', 'mime', 'endpoint']);

/** Everyday words for what a filter can ask for. */
const WORDS: Readonly<Record<string, string>> = {
  failed: 'failed',
  failing: 'failed',
  failure: 'failed',
  failures: 'failed',
  error: 'failed',
  errors: '(failed or errors)',
  broken: 'failed',
  slow: 'time > 1 s',
  large: 'wire > 100 kB',
  big: 'wire > 100 kB',
  cached: 'outcome = cached',
  redirect: 'outcome = redirect',
  redirects: 'outcome = redirect',
  redirected: 'outcome = redirect',
  api: 'kind = data',
  apis: 'kind = data',
  xhr: 'kind = data',
  ajax: 'kind = data',
  fetch: 'kind = data',
  calls: 'kind = data',
  json: 'mime ~ json',
  html: 'kind = document',
  documents: 'kind = document',
  css: 'kind = style',
  styles: 'kind = style',
  js: 'kind = script',
  javascript: 'kind = script',
  scripts: 'kind = script',
  images: 'kind = image',
  pictures: 'kind = image',
  fonts: 'kind = font',
  media: 'kind = media',
  websocket: 'kind = socket',
  websockets: 'kind = socket',
  sockets: 'kind = socket',
  preflights: 'kind = preflight',
  options: 'method = OPTIONS',
  get: 'method = GET',
  post: 'method = POST',
  put: 'method = PUT',
  delete: 'method = DELETE',
  patch: 'method = PATCH',
  'third-party': 'party = third',
  thirdparty: 'party = third',
  'first-party': 'party = first',
};

/**
 * The filter that is most likely meant by what somebody typed, where that is none or finds only a text: "404" is
 * `status = 404`, "status:404" too, "failed api" `failed and kind = data`. Undefined where nothing better is known.
 */
export function meantFilter(text: string): string | undefined {
  const words = text.trim().split(/\s+/);
  if (text.trim() === '' || words.length > MOST_WORDS) return undefined;
  const terms = words.flatMap((word) => (/^(?:and|&&?)$/i.test(word) ? [] : [termOf(word)]));
  const isKnown = terms.some(({ isMeant }) => isMeant);
  const meant = terms.map((one) => one.text).join(' and ');
  return isKnown && meant !== text.trim() && parseFilter(meant).ok ? meant : undefined;
}

const MOST_WORDS = 6;

function termOf(word: string): { readonly text: string; readonly isMeant: boolean } {
  const isNot = /^[-!].+/.test(word);
  const bare = isNot ? word.slice(1) : word;
  const meant = meaningOf(bare);
  const text = meant ?? (/^[\p{L}\p{N}./_-]+$/u.test(bare) ? bare : JSON.stringify(bare));
  return { text: isNot ? `not ${text}` : text, isMeant: meant !== undefined };
}

function meaningOf(word: string): string | undefined {
  if (/^[1-5]\d\d$/.test(word) || /^[1-5]xx$/i.test(word)) return `status = ${word.toLowerCase()}`;
  const pair = /^([a-z-]+)[:=](>=|<=|>|<)?(.+)$/i.exec(word);
  if (pair === null) return Object.hasOwn(WORDS, word.toLowerCase()) ? WORDS[word.toLowerCase()] : undefined;
  const [, name = '', order, value = ''] = pair;
  if (/^is$/i.test(name)) return Object.hasOwn(WORDS, value.toLowerCase()) ? WORDS[value.toLowerCase()] : undefined;
  const field = Object.hasOwn(FIELDS, name.toLowerCase()) ? FIELDS[name.toLowerCase()] : undefined;
  if (field === undefined) return undefined;
  if (field === 'kind' && Object.hasOwn(WORDS, value.toLowerCase())) return WORDS[value.toLowerCase()];
  const written = /^[\p{L}\p{N}./_-]+$/u.test(value) ? value : JSON.stringify(value);
  return `${field} ${order ?? (BY_PART.has(field) ? '~' : '=')} ${field === 'method' ? written.toUpperCase() : written}`;
}
