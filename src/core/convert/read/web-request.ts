import { bytesFromText } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { type DraftPart, type DraftPayload, FALLBACK_BOUNDARY, payloadOfBytes, type Variable } from '../draft';
import { lastPartOf } from './curl-address';
import { lineAt, PsFile, PsTable, type PsValue, PsValues } from './powershell-values';
import { addLacking, plusEncoded, type ReadRequest } from './request';

// PowerShell's own Invoke-WebRequest and Invoke-RestMethod, as people write them and as browsers copy them.

/** What follows one another in a script: a value that is given to a name, to a table's member, or a call. */
const STEP =
  /^[ \t]*\$(\w+)(?:\[\s*(['"])(.*?)\2\s*\]|\.(\w+))?[ \t]*=(?!=)[ \t]*|\$(\w+)\.Add\(\s*(['"])(.*?)\6\s*,\s*|\b(?:Invoke-(?:WebRequest|RestMethod)|iwr|irm)\b/gim;

/** Parameters of a call that are read here, by their whole names; others may be shortened to what tells them apart. */
const PARAMETERS =
  'allowunencryptedauthentication authentication body contenttype credential custommethod disablekeepalive form headers httpversion infile maximumredirection maximumretrycount method outfile passthru proxy resume retryintervalsec sessionvariable skipcertificatecheck skipheadervalidation statuscodevariable timeoutsec token transferencoding uri usebasicparsing usedefaultcredentials useragent websession'.split(
    ' ',
  );
const SWITCHES =
  /^(?:allowunencryptedauthentication|disablekeepalive|passthru|resume|skipcertificatecheck|skipheadervalidation|usebasicparsing|usedefaultcredentials)$/;

/** Requests of a script's calls, with what it gave to the session that they name, and the variables in them. */
export function readWebRequests(script: string): {
  readonly requests: readonly ReadRequest[];
  readonly variables: readonly Variable[];
} {
  const text = script.replaceAll('\r\n', '\n').replace(/`[ \t]*\n/g, ' ');
  const values = new PsValues(text);
  const requests: ReadRequest[] = [];
  let end = 0;
  for (const match of text.matchAll(STEP)) {
    // What stands within a value that was read is a part of it.
    if (match.index < end) continue;
    const [whole, name, , indexed, dotted, added, , addedName] = match;
    const at = match.index + whole.length;
    if (name !== undefined) end = values.assign(name, indexed ?? dotted, at);
    else if (added !== undefined) end = values.assign(added, addedName, at);
    else requests.push(requestOf(text, at, values));
  }
  return { requests: requests.filter(({ url }) => url !== ''), variables: values.variables };
}

/** The parameters of a call, in any order, those of a table that is spread into it too; what cannot be read is noted. */
function parametersOf(text: string, from: number, values: PsValues, notes: string[]): Map<string, PsValue> {
  const given = new Map<string, PsValue>();
  let at = from;
  for (;;) {
    at += /^[ \t]*/.exec(text.slice(at, at + 200))?.[0].length ?? 0;
    const rest = text.slice(at, at + 200);
    if (rest === '' || /^[\n;|)}]/.test(rest)) return given;
    const spread = /^@(\w+)/.exec(rest);
    if (spread !== null) {
      const table = values.valueOf(spread[1] ?? '');
      if (table instanceof PsTable) for (const [name, value] of table.entries) given.set(wholeName(name), value);
      else notes.push(`What ${spread[0]} holds is not known here, and is left out.`);
      at += spread[0].length;
      continue;
    }
    const name = /^-([A-Za-z]\w*):?[ \t]*/.exec(rest);
    if (name !== null) {
      const whole = wholeName(name[1] ?? '');
      at += name[0].length;
      if (SWITCHES.test(whole) || /^(?:$|[\n;|)}]|-[A-Za-z])/.test(text.slice(at, at + 2))) {
        given.set(whole, true);
        continue;
      }
    }
    const value = values.readArgument(at);
    const whole = name === null ? 'uri' : wholeName(name[1] ?? '');
    if (value !== undefined) {
      if (name !== null || !given.has('uri')) given.set(whole, value.value);
      at = value.end;
      continue;
    }
    notes.push(`"${lineAt(text, at).slice(0, 40)}" cannot be read, and is left out.`);
    const next = /[ \t]-[A-Za-z]/.exec(lineAt(text, at));
    if (next === null) return given;
    at += next.index;
  }
}

function wholeName(written: string): string {
  const lower = written.toLowerCase();
  if (PARAMETERS.includes(lower)) return lower;
  const meant = PARAMETERS.filter((name) => name.startsWith(lower));
  return meant.length === 1 ? (meant[0] ?? lower) : lower;
}

function requestOf(text: string, from: number, values: PsValues): ReadRequest {
  const notes: string[] = [];
  const given = parametersOf(text, from, values, notes);
  const textOf = (name: string): string | undefined => {
    const value = given.get(name);
    return value === undefined || value === true ? undefined : values.asText(value) || undefined;
  };
  const headers = headersOf(given.get('headers'), values).filter(
    ({ name }) => !/^(?:authority|method|path|scheme)$/i.test(name) && !name.startsWith(':'),
  );
  const add = (name: string, value: string | undefined): void => addLacking(headers, name, value);
  if (given.has('websession') || given.has('sessionvariable'))
    for (const header of sessionHeaders(text, values)) add(header.name, header.value);
  add('User-Agent', textOf('useragent'));
  addCredentials(given, values, add, notes);
  const method = textOf('custommethod') ?? textOf('method')?.toUpperCase() ?? 'GET';
  const body = given.get('body');
  const isForm = body instanceof PsTable;
  const url = textOf('uri') ?? '';
  if (isForm && method === 'GET')
    return {
      method,
      url: `${url}${url.includes('?') ? '&' : '?'}${fieldsOf(body, values)}`,
      headers,
      payload: { type: 'none' },
      wantsCompressed: true,
      notes,
    };
  const payloadText = body === undefined ? undefined : isForm ? fieldsOf(body, values) : values.asText(body);
  add(
    'Content-Type',
    textOf('contenttype') ??
      (payloadText === undefined || method === 'GET' ? undefined : 'application/x-www-form-urlencoded'),
  );
  return {
    method,
    url,
    headers,
    payload: payloadOf(given, payloadText, findHeader(headers, 'content-type'), values),
    wantsCompressed: true,
    notes,
  };
}

function payloadOf(
  given: ReadonlyMap<string, PsValue>,
  text: string | undefined,
  contentType: string | undefined,
  values: PsValues,
): DraftPayload {
  const [file, form] = [given.get('infile'), given.get('form')];
  if (file !== undefined) return { type: 'file', path: values.asText(file) };
  if (form instanceof PsTable) {
    const parts = form.entries.flatMap(([name, value]) =>
      (Array.isArray(value) ? (value as readonly PsValue[]) : [value]).map((one) => partOf(name, one, values)),
    );
    return { type: 'parts', parts, boundary: FALLBACK_BOUNDARY };
  }
  return text === undefined || text === '' ? { type: 'none' } : payloadOfBytes(bytesFromText(text), contentType);
}

function partOf(name: string, value: PsValue, values: PsValues): DraftPart {
  if (value instanceof PsFile)
    return {
      name,
      fileName: lastPartOf(value.path),
      contentType: 'application/octet-stream',
      bytes: undefined,
    };
  return { name, fileName: undefined, contentType: undefined, bytes: bytesFromText(values.asText(value)) };
}

/** A table's members as fields of a form. */
const fieldsOf = (table: PsTable, values: PsValues): string => {
  const known = new Map(values.variables.map((variable) => [variable.name, variable]));
  return table.entries
    .map(([name, value]) => `${plusEncoded(name, known)}=${plusEncoded(values.asText(value), known)}`)
    .join('&');
};

/** What says who sends it; what is sent only where the server asks, or computed of what is not here, is noted. */
function addCredentials(
  given: ReadonlyMap<string, PsValue>,
  values: PsValues,
  add: (name: string, value: string) => void,
  notes: string[],
): void {
  const kind = values.asText(given.get('authentication') ?? '').toLowerCase();
  const token = given.get('token');
  if (/^(?:bearer|oauth)$/.test(kind) && token !== undefined)
    add('Authorization', `Bearer ${values.asText(token, 'token')}`);
  else if (given.has('credential') || given.has('usedefaultcredentials'))
    notes.push('The credentials of the call are not here: they are left out.');
}

const headersOf = (value: PsValue | undefined, values: PsValues): NameValue[] =>
  value instanceof PsTable ? value.entries.map(([name, one]) => ({ name, value: values.asText(one) })) : [];

/** What a script gave the session that its calls share: the user agent and the cookies. */
function sessionHeaders(text: string, values: PsValues): NameValue[] {
  const quoted = /"((?:[^"`]|`[\s\S])*)"/.source;
  const plain = (at: number): string => {
    const read = values.read(at);
    return read === undefined ? '' : values.asText(read.value);
  };
  const agent = new RegExp(`\\.UserAgent\\s*=\\s*(?=${quoted})`).exec(text);
  const cookies = [
    ...text.matchAll(new RegExp(`System\\.Net\\.Cookie\\(\\s*${quoted}\\s*,\\s*(?=${quoted})`, 'g')),
  ].map((match) => `${plain(match.index + match[0].indexOf('"'))}=${plain(match.index + match[0].length)}`);
  return [
    ...(agent === null ? [] : [{ name: 'User-Agent', value: plain(agent.index + agent[0].length) }]),
    ...(cookies.length === 0 ? [] : [{ name: 'Cookie', value: cookies.join('; ') }]),
  ];
}
