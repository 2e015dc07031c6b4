import { formDecoded } from '../http';
import { type Draft, type DraftHeader, draftHeaders } from './draft';
import { defaultFor, headerRole, type Preset } from './header-policy';
import { mapTexts } from './texts';
import { fixedText, readValue, VARIABLE_MARK, VARIABLE_NAME } from './value';

// Changes to a draft, each giving a new one.

/** Keeps or leaves out the headers under a preset, as a fresh draft of it would; those written by hand stay. */
export const usePreset = (draft: Draft, preset: Preset): Draft => ({
  ...draft,
  headers: draft.headers.map((header) =>
    header.reason === BY_HAND ? header : { ...header, ...defaultFor(header.role, preset) },
  ),
});

const BY_HAND = 'set by hand';

/** Keeps all headers that can be sent by hand, or none. */
export const keepAll = (draft: Draft, kept: boolean): Draft => ({
  ...draft,
  headers: draft.headers.map((header) =>
    header.role === 'computed' ? header : { ...header, kept, reason: kept ? 'all are kept' : 'all are left out' },
  ),
});

export function changeHeader(
  draft: Draft,
  at: number,
  change: Partial<Pick<DraftHeader, 'name' | 'value' | 'kept'>>,
): Draft {
  const headers = draft.headers.map((header, place): DraftHeader => {
    if (place !== at) return header;
    const next = { ...header, ...change };
    return { ...next, role: headerRole(next, draft), reason: BY_HAND };
  });
  return { ...draft, headers };
}

export const addHeader = (draft: Draft): Draft => ({
  ...draft,
  headers: [...draft.headers, { name: '', value: '', role: 'own', kept: true, reason: BY_HAND }],
});

export const dropHeader = (draft: Draft, at: number): Draft => ({
  ...draft,
  headers: draft.headers.filter((_, place) => place !== at),
});

/** The pieces of an address: everything before the question mark, and the query's pieces as they stand. */
export function splitQuery(url: string): { readonly base: string; readonly pieces: readonly string[] } {
  // Before the fragment alone (RFC 3986 3.4); drafts have none, but what is typed may.
  const at = url.search(/[?#]/);
  if (url[at] !== '?') return { base: url, pieces: [] };
  return { base: url.slice(0, at), pieces: url.slice(at + 1).split('&') };
}

export const joinQuery = (base: string, pieces: readonly string[]): string =>
  pieces.length === 0 ? base : `${base}?${pieces.join('&')}`;

/** A piece of a query as what it says; what is no percent-encoding stays as it stands. */
export function readPiece(piece: string): { readonly name: string; readonly value: string } {
  const at = piece.indexOf('=');
  return {
    name: formDecoded(at === -1 ? piece : piece.slice(0, at)),
    value: at === -1 ? '' : formDecoded(piece.slice(at + 1)),
  };
}

/** A piece of a query from what it is to say; marks of variables stay marks. */
export function writePiece(name: string, value: string): string {
  const encoded = (text: string): string =>
    encodeURIComponent(text.toWellFormed()).replace(/%7B%7B([A-Za-z][A-Za-z0-9_]*)%7D%7D/g, '{{$1}}');
  return `${encoded(name)}=${encoded(value)}`;
}

/** Gives names for variables: none that another one has, that was given before, or that a text of the draft marks already. */
export function nameGiver(draft: Draft): (wanted: string) => string {
  const taken = new Set(draft.variables.map(({ name }) => name));
  // A mark that was captured is text; a variable of its name would make it another one.
  mapTexts(draft, (text) => {
    for (const [, name = ''] of text.matchAll(VARIABLE_MARK)) taken.add(name);
    return text;
  });
  const counts = new Map<string, number>();
  return (wanted) => {
    const cleaned = wanted
      .replace(/[^A-Za-z0-9]+/g, '_')
      .replace(/^[^A-Za-z]+|_+$/g, '')
      .toLowerCase();
    const base = VARIABLE_NAME.test(cleaned) ? cleaned : 'value';
    let count = counts.get(base) ?? 1;
    let name = count === 1 ? base : `${base}_${count}`;
    while (taken.has(name)) name = `${base}_${++count}`;
    counts.set(base, count);
    taken.add(name);
    return name;
  };
}

/** A name for one variable more. */
export const freeName = (draft: Draft, wanted: string): string => nameGiver(draft)(wanted);

/**
 * Lifts a header's value into a variable; of credentials the part behind the scheme, as a secret. One that holds a
 * variable already stays as it is.
 */
export function liftHeader(draft: Draft, at: number): Draft {
  const header = draft.headers[at];
  if (header === undefined || header.value === '' || fixedText(readValue(header.value, draft.variables)) === undefined)
    return draft;
  const scheme = /^(Bearer|Basic|Token)\s+/i.exec(header.value)?.[0] ?? '';
  const isAuthorization = header.name.toLowerCase() === 'authorization';
  const name = freeName(draft, isAuthorization ? 'token' : header.name);
  const variable = { name, value: header.value.slice(scheme.length), isSecret: header.role === 'credential' };
  const headers = draft.headers.map((one, place) => (place === at ? { ...one, value: `${scheme}{{${name}}}` } : one));
  return { ...draft, headers, variables: [...draft.variables, variable] };
}

/** Lifts a text of the payload into a variable, wherever it stands there. */
export function liftText(draft: Draft, text: string, wanted: string): Draft {
  if (draft.payload.type !== 'text' || text === '' || !draft.payload.text.includes(text)) return draft;
  const name = freeName(draft, wanted);
  return {
    ...draft,
    payload: { type: 'text', text: draft.payload.text.replaceAll(text, `{{${name}}}`) },
    variables: [...draft.variables, { name, value: text, isSecret: false }],
  };
}

/** Puts a variable's value back where its mark stands, and forgets it. */
export function dropVariable(draft: Draft, name: string): Draft {
  const value = draft.variables.find((variable) => variable.name === name)?.value ?? '';
  const filled = mapTexts(draft, (text) => text.replaceAll(`{{${name}}}`, () => value));
  return { ...filled, variables: draft.variables.filter((variable) => variable.name !== name) };
}

/** Renames a variable wherever its mark stands. */
export function renameVariable(draft: Draft, from: string, to: string): Draft {
  const renamed = mapTexts(draft, (text) => text.replaceAll(`{{${from}}}`, `{{${to}}}`));
  return { ...renamed, variables: draft.variables.map((one) => (one.name === from ? { ...one, name: to } : one)) };
}

/** Gives a draft another type of payload, and the header that says so. */
export function withContentType(draft: Draft, type: string | undefined): Draft {
  const others = draft.headers.filter(({ name }) => name.toLowerCase() !== 'content-type');
  if (type === undefined) return { ...draft, headers: others };
  return {
    ...draft,
    headers: [...others, ...draftHeaders([{ name: 'Content-Type', value: type }], draft, 'faithful')],
  };
}
