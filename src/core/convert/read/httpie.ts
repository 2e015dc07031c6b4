import { bytesFromText } from '../../content';
import type { NameValue } from '../../model';
import { type DraftPart, type DraftPayload, FALLBACK_BOUNDARY, payloadOfBytes } from '../draft';
import { basicCredentials } from '../userinfo';
import { betweenMarks } from '../value';
import type { Command } from './command';
import { addLacking, type ReadRequest } from './request';

/** Options that a value follows, as far as it may stand apart. */
const VALUED =
  /^(?:-a|-A|-o|-p|-P|-s|--auth|--auth-type|--output|--print|--style|--raw|--timeout|--proxy|--verify|--cert|--cert-key|--session|--pretty|--boundary|--max-redirects|--format-options|--ssl|--ciphers|--response-mime|--response-charset)$/;
/** What parts an item's name from its value, the longer first. */
const SEPARATOR = /^((?:\\[\s\S]|[^\\])*?)(:=@|:=|==|=@|@|=|:|;)([\s\S]*)$/;

interface Items {
  readonly headers: NameValue[];
  readonly query: string[];
  readonly fields: (readonly [name: string, json: unknown])[];
  readonly parts: DraftPart[];
  readonly notes: string[];
}

/** A request from the words of the http command: method, URL and items (its manual, Request Items). */
export function readHttpie({ words, input }: Command): ReadRequest[] {
  const items: Items = { headers: [], query: [], fields: [], parts: [], notes: [] };
  const rest: string[] = [];
  let [isForm, isMultipart] = [false, false];
  let raw: string | undefined;
  let auth: string | undefined;
  let isBearer = false;
  for (let at = 1; at < words.length; at++) {
    const word = words[at] ?? '';
    if (word === '--') {
      rest.push(...words.slice(at + 1));
      break;
    }
    if (!word.startsWith('-')) {
      rest.push(word);
      continue;
    }
    const [name = '', ...joined] = word.split('=');
    const value = joined.length > 0 ? joined.join('=') : VALUED.test(name) ? words[++at] : undefined;
    if (name === '-f' || name === '--form') isForm = true;
    else if (name === '--multipart') isMultipart = true;
    else if (name === '--raw') raw = value;
    else if (name === '-a' || name === '--auth') auth = value;
    else if (name === '-A' || name === '--auth-type') isBearer = value === 'bearer';
  }
  const isMethod = /^[A-Za-z]+$/.test(rest[0] ?? '') && rest.length > 1 && !/^localhost$/i.test(rest[0] ?? '');
  const [url = '', ...given] = isMethod ? rest.slice(1) : rest;
  if (url === '') return [];
  for (const item of given) addItem(item, items);
  const scheme = /^https/.test((words[0] ?? '').replace(/^.*[/\\]/, '')) ? 'https' : 'http';
  const address = /^[a-z][a-z0-9+.-]*:\/\//i.test(url)
    ? url
    : `${scheme}://${url.startsWith(':') ? `localhost${url}` : url}`;
  if (auth !== undefined)
    addLacking(items.headers, 'Authorization', isBearer ? `Bearer ${auth}` : basicCredentials(auth));
  const payload = payloadOf(
    items,
    raw ?? (input === undefined ? undefined : new TextDecoder().decode(input)),
    isForm,
    isMultipart,
  );
  addLacking(items.headers, 'Content-Type', payload.implied);
  const query = items.query.join('&');
  return [
    {
      method: isMethod ? (rest[0] ?? '').toUpperCase() : payload.payload.type === 'none' ? 'GET' : 'POST',
      url: query === '' ? address : `${address}${address.includes('?') ? '&' : '?'}${query}`,
      headers: items.headers,
      payload: payload.payload,
      wantsCompressed: true,
      notes: items.notes,
    },
  ];
}

function addItem(item: string, to: Items): void {
  const [, rawName = '', separator, value = ''] = SEPARATOR.exec(item) ?? [];
  const name = rawName.replace(/\\([\s\S])/g, '$1');
  switch (separator) {
    case ':':
      // A header with nothing behind its colon is taken away.
      if (value !== '') to.headers.push({ name, value });
      return;
    case ';':
      to.headers.push({ name, value: '' });
      return;
    case '==':
      to.query.push(
        `${encodeURIComponent(name)}=${betweenMarks(value, (piece) => encodeURIComponent(piece.toWellFormed()))}`,
      );
      return;
    case '=':
      to.fields.push([name, value]);
      return;
    case ':=':
      try {
        to.fields.push([name, JSON.parse(value)]);
      } catch {
        to.notes.push(`${name} is not JSON, and is left out.`);
      }
      return;
    case '@':
      to.parts.push({
        name,
        fileName: value.replace(/;type=.*$/, '').replace(/^.*[/\\]/, ''),
        contentType: /;type=(.*)$/.exec(value)?.[1],
        bytes: undefined,
      });
      return;
    default:
      to.notes.push(`"${item.slice(0, 60)}" would be read from a file, or is not an item, and is left out.`);
  }
}

function payloadOf(
  { fields, parts }: Items,
  raw: string | undefined,
  isForm: boolean,
  isMultipart: boolean,
): { readonly payload: DraftPayload; readonly implied: string | undefined } {
  if (raw !== undefined && raw !== '') {
    const implied = 'application/json';
    return { payload: payloadOfBytes(bytesFromText(raw), implied), implied };
  }
  if (parts.length > 0 || (isMultipart && fields.length > 0)) {
    const written = fields.map(
      ([name, value]): DraftPart => ({
        name,
        fileName: undefined,
        contentType: undefined,
        bytes: bytesFromText(String(value)),
      }),
    );
    return {
      payload: { type: 'parts', parts: [...written, ...parts], boundary: FALLBACK_BOUNDARY },
      implied: undefined,
    };
  }
  if (fields.length === 0) return { payload: { type: 'none' }, implied: undefined };
  if (isForm) {
    const text = new URLSearchParams(fields.map(([name, value]): [string, string] => [name, String(value)])).toString();
    return { payload: { type: 'text', text }, implied: 'application/x-www-form-urlencoded; charset=utf-8' };
  }
  return { payload: { type: 'text', text: JSON.stringify(Object.fromEntries(fields)) }, implied: 'application/json' };
}
