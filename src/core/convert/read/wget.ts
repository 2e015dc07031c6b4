import { bytesFromText } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { type DraftPayload, payloadOfBytes } from '../draft';
import { basicCredentials } from '../userinfo';
import type { Command } from './command';
import { addressOf } from './curl-address';
import { addLacking, type ReadRequest } from './request';

/** Short options of wget that a value follows (wget manual). */
const SHORT_VALUED = 'oaeiBDPQRTtwAIXUlO';
const LONG_VALUED =
  /^--(?:output-document|output-file|append-output|execute|input-file|base|tries|timeout|wait|quota|directory-prefix|level|accept|reject|domains|user|password|http-user|http-password|header|referer|user-agent|post-data|post-file|method|body-data|body-file|compression|ca-certificate|certificate|private-key|limit-rate|load-cookies|save-cookies|max-redirect|proxy-user|proxy-password|secure-protocol|bind-address|dns-timeout|connect-timeout|read-timeout|waitretry|restrict-file-names|local-encoding|remote-encoding|start-pos)$/;

/** Requests from wget's words, one an address. */
export function readWget({ words }: Command): ReadRequest[] {
  const options: (readonly [name: string, value: string])[] = [];
  const urls: string[] = [];
  for (let at = 1; at < words.length; at++) {
    const word = words[at] ?? '';
    const [name = '', ...value] = word.split('=');
    if (word.startsWith('--')) {
      if (value.length > 0) options.push([name, value.join('=')]);
      else if (LONG_VALUED.test(name)) options.push([name, words[++at] ?? '']);
      else options.push([name, '']);
    } else if (/^-[A-Za-z]/.test(word)) {
      const letter = [...word.slice(1)].findIndex((one) => SHORT_VALUED.includes(one));
      const joined = letter === -1 ? undefined : word.slice(letter + 2);
      const given = joined === '' ? (words[++at] ?? '') : joined;
      if (given !== undefined && word[letter + 1] === 'U') options.push(['--user-agent', given]);
    } else urls.push(word);
  }
  return urls.map((url) => requestOf(url, options));
}

function requestOf(given: string, options: readonly (readonly [string, string])[]): ReadRequest {
  const notes: string[] = [];
  const last = (...names: string[]): string | undefined => options.findLast(([name]) => names.includes(name))?.[1];
  const headers = options.flatMap(([name, value]): NameValue[] => {
    if (name !== '--header') return [];
    const colon = value.indexOf(':');
    return colon === -1 ? [] : [{ name: value.slice(0, colon), value: value.slice(colon + 1).trim() }];
  });
  const add = (name: string, value: string | undefined): void => addLacking(headers, name, value);
  add('User-Agent', last('--user-agent'));
  add('Referer', last('--referer'));
  const data = last('--post-data', '--body-data');
  const file = last('--post-file', '--body-file');
  if (data !== undefined || file !== undefined) add('Content-Type', 'application/x-www-form-urlencoded');
  const { address, credentials } = addressOf(
    given,
    { target: undefined, keepsDots: false, file: undefined, isUpload: false },
    [],
    notes,
  );
  const user = last('--user', '--http-user');
  const own = user === undefined ? credentials : `${user}:${last('--password', '--http-password') ?? ''}`;
  add('Authorization', own === undefined ? undefined : basicCredentials(own));
  if (last('--load-cookies') !== undefined)
    notes.push(`Cookies would be read from the file "${last('--load-cookies')}", which is not here.`);
  const contentType = findHeader(headers, 'content-type');
  const payload: DraftPayload =
    data !== undefined
      ? payloadOfBytes(bytesFromText(data), contentType)
      : file !== undefined
        ? { type: 'file', path: file }
        : { type: 'none' };
  const isPost = options.some(([name]) => name.startsWith('--post-'));
  const method = last('--method') ?? (isPost ? 'POST' : options.some(([name]) => name === '--spider') ? 'HEAD' : 'GET');
  return {
    method: method.toUpperCase(),
    url: address,
    headers,
    payload,
    wantsCompressed: last('--compression') !== undefined,
    notes,
  };
}
