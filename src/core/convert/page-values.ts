import { keyOf, kindOf, plainValue, readJsonTree } from '../json';
import type { Draft } from './draft';
import { readPiece, splitQuery } from './edit';

/** A text of a page by what stands right before and behind it. */
export interface Around {
  readonly before: string;
  readonly after: string;
}

/** A value that a request may have from a page: what a form hands on, and what a script reads there. */
export interface AskedValue {
  readonly name: string;
  readonly value: string;
}

/** What guards a form or a step of a sign-in is called something like this. */
const GUARD_NAME = /csrf|xsrf|token|nonce|verif|state|ticket|execution|challenge|session|authenticity/i;
export const isGuardName = (name: string): boolean => GUARD_NAME.test(name);
/** Shorter values stand in pages by chance. */
const LEAST_CHARS = 8;
const MOST_CHARS = 200_000;

/**
 * The values of a request that pages may give: fields of forms, members of JSON and headers that are called like what guards
 * them. Of what only gets something just parameters of such names: addresses of all kinds stand in pages.
 */
export function askedValues(draft: Draft): AskedValue[] {
  const isGet = /^(?:GET|HEAD|OPTIONS)$/i.test(draft.method);
  const isTelling = ({ name, value }: AskedValue): boolean =>
    value.length >= LEAST_CHARS &&
    value.length <= MOST_CHARS &&
    /^[\x21-\x7e]+$/.test(value) &&
    (GUARD_NAME.test(name) || !isGet);
  const headers = draft.headers.filter(({ name, kept }) => kept && GUARD_NAME.test(name));
  return [...headers, ...splitQuery(draft.url).pieces.map(readPiece), ...payloadValues(draft)].filter(isTelling);
}

function payloadValues({ payload }: Draft): AskedValue[] {
  if (payload.type === 'parts')
    return payload.parts.map(({ name, bytes = new Uint8Array() }) => ({
      name,
      value: bytes.length > MOST_CHARS ? '' : new TextDecoder().decode(bytes),
    }));
  if (payload.type !== 'text') return [];
  const { text } = payload;
  if (/^[^=\s&]+=\S*$/.test(text)) return text.split('&').map(readPiece);
  const tree = /^\s*[[{]/.test(text) ? readJsonTree(text) : undefined;
  if (tree === undefined || tree.problem !== undefined) return [];
  const nodes = Array.from({ length: tree.count }, (_, node) => node).filter((node) => kindOf(tree, node) === 'string');
  return nodes.map((node) => ({ name: String(keyOf(tree, node) ?? ''), value: plainValue(tree, node) }));
}

/** More of a page is no mark of one place in it. */
const MOST_BEFORE = 300;
const LEAST_BEFORE = 6;
/** Where an element, a member or a statement begins. */
const BEGINS = /[<{,;\n]/;

/**
 * What stands around a value in a page: enough before it that it comes there first, from the beginning of an element or a
 * member on, in ASCII: it is looked for in bytes of any charset. Undefined where nothing does, or the value is not there as a whole.
 */
export function aroundIn(page: string, { name, value }: AskedValue): Around | undefined {
  for (let at = page.indexOf(value); at !== -1; at = page.indexOf(value, at + 1)) {
    const after = page.charAt(at + value.length);
    if (!/^["'<\s;,&\\]$/.test(after) || value.includes(after) || /[\w-]/.test(page.charAt(at - 1))) continue;
    for (let start = at - LEAST_BEFORE; start >= Math.max(0, at - MOST_BEFORE); start--) {
      if (!BEGINS.test(page.charAt(start))) continue;
      const before = page.slice(page.charAt(start) === '<' ? start : start + 1, at).trimStart();
      if (!/^[\t\n\r\x20-\x7e]+$/.test(before) || !/[A-Za-z]{3}/.test(before)) continue;
      if (page.indexOf(before) !== at - before.length) continue;
      // What somebody chose may stand in the page, too: a field is handed on where the page names it so.
      if (GUARD_NAME.test(name) || before.includes(name)) return { before, after };
      break;
    }
  }
  return undefined;
}

/** What stands around a value that a page calls like what guards a form, or that looks made by a machine. */
export function guardedIn(page: string, value: string): Around | undefined {
  if (value.length < LEAST_CHARS || !/^[\x21-\x7e]+$/.test(value)) return undefined;
  const around = aroundIn(page, { name: '', value });
  const isMade = value.length >= 16 && /\d/.test(value) && /[A-Za-z]/.test(value) && !/[:@]/.test(value);
  return around !== undefined && (isMade || GUARD_NAME.test(around.before)) ? around : undefined;
}
