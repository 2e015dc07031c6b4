import { takeApart } from '../http';
import { type Draft, payloadBytes } from './draft';
import { payloadFields } from './payload-fields';

/** Longer values are told by their beginnings. */
const SHOWN_CHARS = 60;
const short = (text: string): string =>
  text.length > SHOWN_CHARS ? `${text.slice(0, SHOWN_CHARS)}…` : text || 'nothing';

/** What was changed in a draft against the request that it was made from, in sentences, each with what was and what is. */
export function changesOf(before: Draft, after: Draft): string[] {
  const changes: string[] = [];
  if (before.method !== after.method) changes.push(`Method ${before.method} became ${after.method}.`);
  if (before.url !== after.url) changes.push(...addressChanges(before.url, after.url));
  const valuesOf = (draft: Draft, name: string): string[] =>
    draft.headers.filter((header) => header.kept && header.name.toLowerCase() === name).map(({ value }) => value);
  const isSecret = (name: string): boolean =>
    [...before.headers, ...after.headers].some(
      (header) => header.name.toLowerCase() === name && header.role === 'credential',
    );
  const names = new Set([...before.headers, ...after.headers].map(({ name }) => name.toLowerCase()));
  for (const name of names) {
    const [was, is] = [valuesOf(before, name), valuesOf(after, name)];
    if (JSON.stringify(was) === JSON.stringify(is)) continue;
    if (was.length === 0) changes.push(`${name} is sent now.`);
    else if (is.length === 0) changes.push(`${name} is left out now.`);
    else if (isSecret(name)) changes.push(`${name} has changed.`);
    else changes.push(`${name} was ${short(was.join(', '))}, now ${short(is.join(', '))}.`);
  }
  const bytes = [before, after].map(({ payload }) => payloadBytes(payload) ?? new Uint8Array());
  const [first = new Uint8Array(), second = new Uint8Array()] = bytes;
  if (first.length !== second.length || first.some((byte, at) => byte !== second[at]))
    changes.push(...payloadChanges(first, second));
  for (const { name, isSecret: secret } of after.variables)
    changes.push(`‹${name}› is a ${secret ? 'secret ' : ''}variable.`);
  return changes;
}

/** More changed fields than these are counted. */
const MOST_FIELDS = 4;

/** Field by field where both are JSON or a form. */
function payloadChanges(first: Uint8Array, second: Uint8Array): string[] {
  const whole = [`The payload was changed: ${first.length} bytes, now ${second.length}.`];
  const [was, is] = [payloadFields(first), payloadFields(second)];
  if (was === undefined || is === undefined) return whole;
  const names = [...new Set([...was.keys(), ...is.keys()])].filter((name) => was.get(name) !== is.get(name));
  if (names.length === 0 || names.length > MOST_FIELDS) return whole;
  return names.map((name) => {
    const [before, after] = [was.get(name), is.get(name)];
    if (before === undefined) return `${name} is sent now: ${short(after ?? '')}.`;
    return after === undefined ? `${name} is left out now.` : `${name} was ${short(before)}, now ${short(after)}.`;
  });
}

/** Part by part where both can be taken apart. Parameters are held against each other by their names and places. */
function addressChanges(before: string, after: string): string[] {
  const [was, is] = [takeApart(before), takeApart(after)];
  const whole = [`The address was ${short(before)}, now ${short(after)}.`];
  if (was === undefined || is === undefined) return whole;
  const changes: string[] = [];
  const tell = (what: string, first: string, second: string): void => {
    if (first !== second) changes.push(`${what} was ${short(first)}, now ${short(second)}.`);
  };
  const hostOf = ({ host, port }: typeof was): string => (port === undefined ? host : `${host}:${port}`);
  tell('Scheme', was.scheme, is.scheme);
  tell('Host', hostOf(was), hostOf(is));
  tell('Path', was.path, is.path);
  const keyOf = ({ name, nth }: (typeof was.query)[number]): string => JSON.stringify([name, nth]);
  const others = new Map(is.query.map((parameter) => [keyOf(parameter), parameter]));
  for (const parameter of was.query) {
    const other = others.get(keyOf(parameter));
    others.delete(keyOf(parameter));
    if (other === undefined) changes.push(`Query ${short(parameter.name)} is left out now.`);
    else tell(`Query ${short(parameter.name)}`, parameter.value, other.value);
  }
  for (const { name, value } of others.values()) changes.push(`Query ${short(name)} is sent now: ${short(value)}.`);
  // Only how it is written, or the order, or the user before the host.
  return changes.length === 0 ? whole : changes;
}
