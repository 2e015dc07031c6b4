import { bytesFromText } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { type DraftPayload, payloadOfBytes } from '../draft';
import type { Command, Surroundings } from './command';
import { addressOf, encodedBut } from './curl-address';
import { addLacking, basicAround, type ReadRequest } from './request';

/** Short options of wget that a value follows, joined or apart (wget manual); and the long names of those that matter here. */
const SHORT_VALUED = 'oaeinBDPQRTtwAIXUlOY';
const SHORT: Readonly<Record<string, string>> = {
  e: 'execute',
  i: 'input-file',
  r: 'recursive',
  m: 'mirror',
  p: 'page-requisites',
  U: 'user-agent',
};

const VALUED =
  'accept accept-regex append-output base bind-address body-data body-file ca-certificate ca-directory certificate certificate-type ciphers compression config connect-timeout crl-file cut-dirs default-page directory-prefix dns-timeout domains exclude-directories exclude-domains execute follow-tags ftp-password ftp-user header hsts-file http-password http-user ignore-tags include-directories input-file level limit-rate load-cookies local-encoding max-redirect method output-document output-file password pinnedpubkey post-data post-file prefer-family private-key private-key-type progress proxy-password proxy-user quota read-timeout referer regex-type reject reject-regex rejected-log remote-encoding report-speed restrict-file-names retry-on-http-error save-cookies secure-protocol start-pos timeout tries use-askpass user user-agent wait waitretry warc-dedup warc-file warc-header warc-max-size warc-tempdir'.split(
    ' ',
  );
/** Options without a value that say something of a request, or that others are told apart from. */
const FLAGS =
  'ask-password auth-no-challenge backups content-disposition content-on-error continue convert-file-only convert-links mirror no-cache no-check-certificate no-clobber no-config no-cookies page-requisites recursive relative retr-symlinks retry-connrefused save-headers spider'.split(
    ' ',
  );

type Option = readonly [name: string, value: string];

/** Requests from wget's words, one an address. */
export function readWget({ words }: Command, around: Surroundings): ReadRequest[] {
  const { options, urls } = readOptions(words.slice(1));
  const notes: string[] = [];
  for (const [name, path] of options) {
    if (name !== 'input-file') continue;
    const list = around.files.get(path);
    if (list === undefined) notes.push(`More addresses would be read from the file "${path}", which is not here.`);
    else urls.push(...new TextDecoder().decode(list).split(/\s+/).filter(Boolean));
  }
  return urls.map((url) => requestOf(url, options, [...notes], around));
}

function readOptions(words: readonly string[]): { readonly options: Option[]; readonly urls: string[] } {
  const given: Option[] = [];
  const urls: string[] = [];
  for (let at = 0; at < words.length; at++) {
    const word = words[at] ?? '';
    if (word === '--') {
      urls.push(...words.slice(at + 1));
      break;
    }
    if (word.startsWith('--')) {
      const [written = '', ...joined] = word.slice(2).split('=');
      const name = wholeName(written);
      const isApart = joined.length === 0 && VALUED.includes(name);
      given.push([name, isApart ? (words[++at] ?? '') : joined.join('=')]);
    } else if (word.length > 1 && word.startsWith('-')) {
      const letters = word.slice(1);
      for (let place = 0; place < letters.length; place++) {
        const letter = letters[place] ?? '';
        const name = SHORT[letter] ?? letter;
        if (!SHORT_VALUED.includes(letter)) {
          given.push([name, '']);
          continue;
        }
        const joined = letters.slice(place + 1);
        given.push([name, joined === '' ? (words[++at] ?? '') : joined]);
        break;
      }
    } else urls.push(word);
  }
  return { options: given.map(asOption), urls };
}

/** A long option by as much of its name as tells it apart (getopt_long). */
function wholeName(written: string): string {
  const names = [...VALUED, ...FLAGS];
  if (names.includes(written)) return written;
  const meant = names.filter((name) => name.startsWith(written));
  return meant.length === 1 ? (meant[0] ?? written) : written;
}

/** A command as it stands in wget's own file of settings is the option of that name. */
function asOption(option: Option): Option {
  const [, command = '', value = ''] = /^\s*([\w-]+)\s*=\s*([\s\S]*?)\s*$/.exec(option[1]) ?? [];
  if (option[0] !== 'execute' || command === '') return option;
  const name = command.toLowerCase().replaceAll('_', '-');
  return name === 'cache' && /^(?:off|no|0)$/i.test(value) ? ['no-cache', ''] : [name, value];
}

function requestOf(given: string, options: readonly Option[], notes: string[], around: Surroundings): ReadRequest {
  const last = (...names: string[]): string | undefined => options.findLast(([name]) => names.includes(name))?.[1];
  const has = (name: string): boolean => options.some((option) => option[0] === name);
  const headers = headersOf(options);
  const add = (name: string, value: string | undefined): void => addLacking(headers, name, value);
  const agent = last('user-agent');
  // An empty one is not sent at all.
  add('User-Agent', agent === '' ? undefined : agent);
  add('Referer', last('referer'));
  if (has('no-cache')) {
    add('Cache-Control', 'no-cache');
    add('Pragma', 'no-cache');
  }
  const start = last('start-pos');
  add('Range', start === undefined ? undefined : `bytes=${start}-`);
  const data = last('post-data', 'body-data');
  const file = last('post-file', 'body-file');
  if (data !== undefined || file !== undefined) add('Content-Type', 'application/x-www-form-urlencoded');
  const { address, credentials } = addressOf(
    given,
    { target: undefined, keepsDots: false, file: undefined, isUpload: false },
    [],
    notes,
    around.values,
  );
  const [user, password] = [last('user', 'http-user'), last('password', 'http-password')];
  const chosen = user === undefined || password === undefined ? undefined : `${user}:${password}`;
  // Without a password nothing is sent; what stands in the address comes before the options.
  const own = credentials === undefined || credentials.endsWith(':') ? chosen : credentials;
  if (own !== undefined && !has('auth-no-challenge') && findHeader(headers, 'authorization') === undefined)
    notes.push('wget sends the user and the password only when the server asks for them; here they are sent at once.');
  add('Authorization', own === undefined ? undefined : basicAround(own, around, notes));
  if (last('load-cookies') !== undefined)
    notes.push(`Cookies would be read from the file "${last('load-cookies')}", which is not here.`);
  if (['recursive', 'mirror', 'page-requisites'].some(has))
    notes.push('wget would go on to what the response links to; only the first request is read.');
  const contentType = findHeader(headers, 'content-type');
  const payload: DraftPayload =
    data !== undefined
      ? payloadOfBytes(bytesFromText(data), contentType)
      : file !== undefined
        ? { type: 'file', path: file }
        : { type: 'none' };
  const isPost = has('post-data') || has('post-file');
  return {
    method: (last('method') ?? (isPost ? 'POST' : has('spider') ? 'HEAD' : 'GET')).toUpperCase(),
    // What no address may hold is encoded; a percent sign that begins no code is text.
    url: encodedBut(address, /[\s"<>\\^`{|}]+|%(?![0-9a-f]{2})/gi),
    headers,
    payload,
    wantsCompressed: last('compression') !== undefined,
    notes,
  };
}

/** Headers in their order: one takes the place of an earlier one of its name, an empty one that of all before it. */
function headersOf(options: readonly Option[]): NameValue[] {
  const headers: NameValue[] = [];
  for (const [option, line] of options) {
    if (option !== 'header') continue;
    if (line === '') headers.length = 0;
    const colon = line.indexOf(':');
    if (colon === -1) continue;
    const header = { name: line.slice(0, colon), value: line.slice(colon + 1).trim() };
    const before = headers.findIndex(({ name }) => name.toLowerCase() === header.name.toLowerCase());
    if (before === -1) headers.push(header);
    else headers[before] = header;
  }
  return headers;
}
