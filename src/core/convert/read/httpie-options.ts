/** What options of the http command say of a request, and the words that are none. */
export interface HttpieOptions {
  readonly rest: readonly string[];
  readonly isForm: boolean;
  readonly isMultipart: boolean;
  readonly isJson: boolean;
  readonly raw: string | undefined;
  readonly auth: string | undefined;
  readonly isBearer: boolean;
  /** Credentials that only a challenge of the server asks for: not part of the first request. */
  readonly isChallenged: boolean;
  readonly scheme: string | undefined;
  readonly keepsDots: boolean;
  readonly boundary: string | undefined;
  readonly notes: string[];
}

/** Short options by their long names; those in `VALUED` take a value. */
const SHORT: Readonly<Record<string, string>> = {
  a: 'auth',
  A: 'auth-type',
  f: 'form',
  j: 'json',
  o: 'output',
  p: 'print',
  P: 'history-print',
  s: 'style',
  x: 'compress',
};

const VALUED = new Set(
  'auth auth-type boundary cert cert-key cert-key-pass ciphers default-scheme format-options history-print max-headers max-redirects output pretty print proxy raw response-charset response-mime session session-read-only ssl style timeout verify'.split(
    ' ',
  ),
);
/** Options without a value that say something of the request. */
const FLAGS = ['chunked', 'compress', 'form', 'json', 'multipart', 'path-as-is'] as const;

/** Reads options wherever they stand, short ones joined or not, long ones shortened as far as they are told apart (its manual). */
export function readHttpieOptions(words: readonly string[]): HttpieOptions {
  const rest: string[] = [];
  const given = new Map<string, string>();
  for (let at = 0; at < words.length; at++) {
    const word = words[at] ?? '';
    if (word === '--') {
      rest.push(...words.slice(at + 1).filter((one) => one !== '--'));
      break;
    }
    if (word.startsWith('--')) {
      const [written = '', ...joined] = word.slice(2).split('=');
      const name = wholeName(written);
      const value = joined.length > 0 ? joined.join('=') : VALUED.has(name) ? (words[++at] ?? '') : '';
      given.set(name, value);
    } else if (word.length > 1 && word.startsWith('-')) {
      const letters = word.slice(1);
      for (let place = 0; place < letters.length; place++) {
        const name = SHORT[letters[place] ?? ''] ?? '';
        if (!VALUED.has(name)) {
          given.set(name, '');
          continue;
        }
        const joined = letters.slice(place + 1).replace(/^=/, '');
        given.set(name, joined === '' ? (words[++at] ?? '') : joined);
        break;
      }
    } else rest.push(word);
  }
  const kind = given.get('auth-type');
  const isChallenged = kind !== undefined && kind !== 'basic' && kind !== 'bearer';
  return {
    rest,
    isForm: given.has('form') || given.has('multipart'),
    isMultipart: given.has('multipart'),
    isJson: given.has('json'),
    raw: given.get('raw'),
    auth: given.get('auth'),
    isBearer: kind === 'bearer',
    isChallenged,
    scheme: given.get('default-scheme'),
    keepsDots: given.has('path-as-is'),
    boundary: given.get('boundary'),
    notes: [
      ...(isChallenged ? [`-A ${kind} computes fresh credentials for every request: they are left out.`] : []),
      ...(given.has('compress') ? ['--compress is left out: the payload is sent as it is.'] : []),
      ...(given.has('chunked') ? ['--chunked is left out: the payload is sent with its length.'] : []),
      ...['session', 'session-read-only'].flatMap((name) =>
        given.has(name)
          ? [`Headers and cookies of the session "${given.get(name)}" would be sent too; they are not here.`]
          : [],
      ),
    ],
  };
}

function wholeName(written: string): string {
  const names = [...VALUED, ...FLAGS];
  if (names.includes(written)) return written;
  const meant = names.filter((name) => name.startsWith(written));
  return meant.length === 1 ? (meant[0] ?? written) : written;
}
