import { parser } from '@lezer/javascript';
import { bytesFromText } from '../../content';
import { findHeader, type NameValue } from '../../model';
import { type DraftPayload, FALLBACK_BOUNDARY, payloadOfBytes, type Variable } from '../draft';
import { encodedBut } from './curl-address';
import { addLacking, type ReadRequest } from './request';
import { asText, FormParts, FormText, pairsOf, ScriptBlob, ScriptRequest, ScriptUrl, Unknown } from './script-objects';
import { argumentsOf, type Evaluated, ScriptValues } from './script-values';

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
      if (name === 'AssignmentExpression') values.assign(node);
      if (name !== 'CallExpression') return;
      const callee = node.firstChild;
      if (callee === null) return;
      const given = argumentsOf(node);
      const last = callee.name === 'MemberExpression' ? callee.lastChild : callee;
      const called = last === null ? '' : text.slice(last.from, last.to);
      if (called === 'fetch') {
        const [first, second] = given.map((argument) => values.evaluate(argument));
        const request = first === undefined ? undefined : requestOf(first, second, values);
        if (request !== undefined) requests.push(request);
        return;
      }
      if (values.change(callee, given)) return;
      const receiver = callee.firstChild;
      if (receiver === null || !/^(?:open|setRequestHeader|send)$/.test(called)) return;
      const sent = calls.call(
        text.slice(receiver.from, receiver.to),
        called,
        given.map((argument) => values.evaluate(argument)),
        values,
      );
      if (sent !== undefined) requests.push(sent);
    },
  });
  return { requests, variables: values.variables };
}

/** The request that a call makes, of an address or of a request that was made ahead; undefined where neither is known. */
function requestOf(first: Evaluated, init: Evaluated | undefined, values: ScriptValues): ReadRequest | undefined {
  if (first.type !== 'known') return undefined;
  const made = first.value instanceof ScriptRequest ? first.value : undefined;
  if (made === undefined && typeof first.value !== 'string' && !(first.value instanceof ScriptUrl)) return undefined;
  const notes: string[] = [];
  if (init?.type === 'unknown')
    notes.push(`Of the second argument only its source is known: ${init.source.slice(0, 80)}.`);
  const own =
    init?.type === 'known' && init.value instanceof Map
      ? (init.value as Map<string, unknown>)
      : new Map<string, unknown>();
  const members = new Map<string, unknown>([...(made?.init ?? []), ...own]);
  const headers = joinedHeaders(pairsOf(members.get('headers')));
  const referrer = members.get('referrer');
  if (typeof referrer === 'string' && /^https?:/.test(referrer)) headers.push({ name: 'Referer', value: referrer });
  const body = members.get('body');
  if (body instanceof Map)
    notes.push('The body is an object: browsers send "[object Object]" of it, as JSON.stringify is missing.');
  const payload = payloadOf(body, headers);
  if (members.get('credentials') === 'include')
    notes.push('With credentials: "include" the page’s cookies are sent too; they are not part of this text.');
  for (const [name, value] of [...members, ...headerMembers(members.get('headers'))]) {
    if (value instanceof Unknown)
      notes.push(`"${name}" is left out: only its source is known, ${shorten(value.source)}.`);
    else if (members.has(name) && !/^(method|headers|body|referrer|credentials)$/.test(name))
      notes.push(`"${name}" only concerns browsers, and is left out.`);
  }
  const method = members.get('method');
  const given = typeof method === 'string' ? values.filled(method) : 'GET';
  if (given === undefined) notes.push('The method is not known here, and taken to be GET.');
  const whole = given ?? 'GET';
  return {
    method: CAPITAL_METHODS.test(whole) ? whole.toUpperCase() : whole,
    url: addressOf(made?.url ?? asText(first.value)),
    headers,
    payload,
    wantsCompressed: true,
    notes,
  };
}

/** An address as browsers ask for it (URL Standard, 4.4), without what stands behind "#" (RFC 9110, 7.1). */
function addressOf(given: string): string {
  const address = given.trim().split('#', 1)[0] ?? '';
  if (!given.includes('‹') && /^https?:/i.test(address)) {
    try {
      return new URL(address).href;
    } catch {
      return address;
    }
  }
  return encodedBut(address, /[\s"<>`{}]+|[^\0-\x7f]+/gu);
}

/** Of one name one header, its values joined (Fetch Standard, 2.2.2). */
function joinedHeaders(pairs: readonly NameValue[]): NameValue[] {
  const joined = new Map<string, NameValue>();
  for (const { name, value } of pairs) {
    const key = name.toLowerCase();
    const before = joined.get(key);
    const given = value.replace(/^[\t\n\r ]+|[\t\n\r ]+$/g, '');
    joined.set(key, before === undefined ? { name, value: given } : { ...before, value: `${before.value}, ${given}` });
  }
  return [...joined.values()];
}

/** Requests that a script puts together call by call: XMLHttpRequest, by the name that each goes by. */
class ScriptRequests {
  readonly #open = new Map<string, { readonly method: string; readonly url: string; readonly headers: NameValue[] }>();

  /** Takes one call; gives the request where it is sent by it. */
  call(receiver: string, name: string, given: readonly Evaluated[], values: ScriptValues): ReadRequest | undefined {
    const [first, second] = given.map((one) => (one.type === 'known' ? one.value : undefined));
    switch (name) {
      case 'open':
        if (typeof first === 'string' && (typeof second === 'string' || second instanceof ScriptUrl))
          this.#open.set(receiver, { method: first, url: asText(second), headers: [] });
        return undefined;
      case 'setRequestHeader':
        if (typeof first === 'string' && second !== undefined)
          this.#open.get(receiver)?.headers.push({ name: first, value: asText(second) });
        return undefined;
      default: {
        const opened = this.#open.get(receiver);
        if (opened === undefined) return undefined;
        const body = given[0];
        const init = new Map<string, unknown>([
          ['method', opened.method],
          ['headers', opened.headers.map((header) => [header.name, header.value])],
          ...(body === undefined
            ? []
            : [['body', body.type === 'known' ? body.value : new Unknown(body.source)] as const]),
        ]);
        return requestOf({ type: 'known', value: opened.url }, { type: 'known', value: init }, values);
      }
    }
  }
}

const shorten = (source: string): string => (source.length > 80 ? `${source.slice(0, 80)}…` : source);

const headerMembers = (headers: unknown): readonly (readonly [string, unknown])[] =>
  headers instanceof Map ? [...(headers as Map<string, unknown>)].filter(([, value]) => value instanceof Unknown) : [];

/** What is sent of a body; headers that have no media type get the one that browsers say of it (Fetch Standard, 5.2). */
function payloadOf(body: unknown, headers: NameValue[]): DraftPayload {
  if (body === undefined || body === null || body instanceof Unknown) return { type: 'none' };
  if (body instanceof FormParts) return { type: 'parts', parts: body.parts, boundary: FALLBACK_BOUNDARY };
  const [bytes, implied] =
    body instanceof ScriptBlob
      ? [body.bytes, body.type]
      : body instanceof FormText
        ? [bytesFromText(body.text), 'application/x-www-form-urlencoded;charset=UTF-8']
        : [bytesFromText(asText(body)), 'text/plain;charset=UTF-8'];
  const contentType = findHeader(headers, 'content-type');
  addLacking(headers, 'Content-Type', implied === '' ? undefined : implied);
  return payloadOfBytes(bytes, contentType);
}
