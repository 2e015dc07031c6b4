import { parser } from '@lezer/javascript';
import { bytesFromText } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { type DraftPayload, FALLBACK_BOUNDARY, payloadOfBytes, type Variable } from '../draft';
import { addLacking, type ReadRequest } from './request';
import { argumentsOf, type Evaluated, FormParts, FormText, pairsOf, ScriptValues, Unknown } from './script-values';

/** Methods that browsers write in capitals however they are given (Fetch Standard, 2.2.1). */
const CAPITAL_METHODS = /^(delete|get|head|options|post|put)$/i;

/** Calls of fetch in JavaScript, with the variables that stand in them. They are read, never run. */
export function readFetchCalls(text: string): {
  readonly requests: readonly ReadRequest[];
  readonly variables: readonly Variable[];
} {
  const values = new ScriptValues(text);
  const requests: ReadRequest[] = [];
  const calls = new ScriptRequests();
  parser.parse(text).iterate({
    enter: ({ name, node }) => {
      if (name === 'VariableDeclaration') values.declare(node);
      if (name !== 'CallExpression') return;
      const callee = node.firstChild;
      if (callee === null) return;
      const called = text.slice(callee.from, callee.to);
      const [, receiver = '', name2 = ''] = /^([\w$]+)\.(append|open|setRequestHeader|send)$/.exec(called) ?? [];
      if (name2 !== '') {
        const given = argumentsOf(node).map((argument) => values.evaluate(argument));
        const sent = calls.call(receiver, name2, given, values);
        if (sent !== undefined) requests.push(sent);
        return;
      }
      if (!/(^|\.)fetch$/.test(called)) return;
      const [first, second] = argumentsOf(node).map((argument) => values.evaluate(argument));
      if (first?.type !== 'known' || typeof first.value !== 'string') return;
      requests.push(requestOf(first.value, second));
    },
  });
  return { requests, variables: values.variables };
}

function requestOf(url: string, init: Evaluated | undefined): ReadRequest {
  const notes: string[] = [];
  const members =
    init?.type === 'known' && init.value instanceof Map
      ? (init.value as Map<string, unknown>)
      : new Map<string, unknown>();
  if (init?.type === 'unknown')
    notes.push(`Of the second argument only its source is known: ${init.source.slice(0, 80)}.`);
  const headers = pairsOf(members.get('headers'));
  const referrer = members.get('referrer');
  if (typeof referrer === 'string' && /^https?:/.test(referrer)) headers.push({ name: 'Referer', value: referrer });
  const body = members.get('body');
  const { text, contentType: implied } = bodyOf(body);
  let payload: DraftPayload =
    body instanceof FormParts ? { type: 'parts', parts: body.parts, boundary: FALLBACK_BOUNDARY } : { type: 'none' };
  if (text !== undefined) {
    const contentType = findHeader(headers, 'content-type');
    addLacking(headers, 'Content-Type', implied);
    payload = payloadOfBytes(bytesFromText(text), contentType);
  }
  if (members.get('credentials') === 'include')
    notes.push('With credentials: "include" the page’s cookies are sent too; they are not part of this text.');
  for (const [name, value] of [...members, ...headerMembers(members.get('headers'))]) {
    if (value instanceof Unknown)
      notes.push(`"${name}" is left out: only its source is known, ${shorten(value.source)}.`);
    else if (members.has(name) && !/^(method|headers|body|referrer|credentials)$/.test(name))
      notes.push(`"${name}" only concerns browsers, and is left out.`);
  }
  const method = members.get('method');
  const given = typeof method === 'string' ? method : 'GET';
  return {
    method: CAPITAL_METHODS.test(given) ? given.toUpperCase() : given,
    // No client sends what stands behind "#" (RFC 9110, 7.1).
    url: url.split('#', 1)[0] ?? '',
    headers,
    payload,
    wantsCompressed: true,
    notes,
  };
}

/** Requests that a script puts together call by call: XMLHttpRequest, by the name that each goes by. */
class ScriptRequests {
  readonly #open = new Map<string, { readonly method: string; readonly url: string; readonly headers: NameValue[] }>();

  /** Takes one call; gives the request where it is sent by it. */
  call(receiver: string, name: string, given: readonly Evaluated[], values: ScriptValues): ReadRequest | undefined {
    const [first, second] = given.map((one) => (one.type === 'known' ? one.value : undefined));
    switch (name) {
      case 'append':
        values.appendTo(receiver, first, second);
        return undefined;
      case 'open':
        if (typeof first === 'string' && typeof second === 'string')
          this.#open.set(receiver, { method: first, url: second, headers: [] });
        return undefined;
      case 'setRequestHeader':
        if (typeof first === 'string' && typeof second === 'string')
          this.#open.get(receiver)?.headers.push({ name: first, value: second });
        return undefined;
      default: {
        const opened = this.#open.get(receiver);
        if (opened === undefined) return undefined;
        const headers = new Map<string, unknown>(opened.headers.map((header) => [header.name, header.value]));
        const init = new Map<string, unknown>([
          ['method', opened.method],
          ['headers', headers],
          ...(first === undefined || first === null ? [] : [['body', first] as const]),
        ]);
        return requestOf(opened.url, { type: 'known', value: init });
      }
    }
  }
}

const shorten = (source: string): string => (source.length > 80 ? `${source.slice(0, 80)}…` : source);

const headerMembers = (headers: unknown): readonly (readonly [string, unknown])[] =>
  headers instanceof Map ? [...(headers as Map<string, unknown>)].filter(([, value]) => value instanceof Unknown) : [];

/** A body's text, and what a browser says that it is where no header does (Fetch Standard, 5.2). */
function bodyOf(body: unknown): { readonly text: string | undefined; readonly contentType: string } {
  return body instanceof FormText
    ? { text: body.text, contentType: 'application/x-www-form-urlencoded;charset=UTF-8' }
    : { text: typeof body === 'string' ? body : undefined, contentType: 'text/plain;charset=UTF-8' };
}
