import { findHeader, type NameValue } from '../../model';
import type { DraftPayload } from '../draft';
import { basicCredentials } from '../userinfo';
import { encodedAround, type KnownValues, VARIABLE_MARK } from '../value';
import type { Surroundings } from './command';

/** A request that was read from a text, and what of the text has no place in it. */
export interface ReadRequest {
  readonly method: string;
  readonly url: string;
  readonly headers: readonly NameValue[];
  readonly payload: DraftPayload;
  readonly wantsCompressed: boolean;
  readonly notes: readonly string[];
}

/** Adds a header that a client sends by itself; one that was given, or nothing to send, leaves the headers as they are. */
export function addLacking(headers: NameValue[], name: string, value: string | undefined): void {
  if (value !== undefined && findHeader(headers, name) === undefined) headers.push({ name, value });
}

/** A text as fields of forms are encoded: a blank as plus, all but letters, digits and -._~ by their bytes. Marks stay. */
export const plusEncoded = (text: string, values: KnownValues): string =>
  encodedAround(
    text,
    (piece) =>
      encodeURIComponent(piece.toWellFormed())
        .replace(/[!'()*]/g, (character) => `%${character.charCodeAt(0).toString(16).toUpperCase()}`)
        .replaceAll('%20', '+'),
    values,
  );

/**
 * The value of Authorization for "user:password" in which variables may stand (RFC 7617 2). Their values are Base64 with the
 * rest: of those that are not known here the whole is a variable.
 */
export function basicAround(userAndPassword: string, { values, addUnknown }: Surroundings, notes: string[]): string {
  const lacking: string[] = [];
  const filled = userAndPassword.replace(VARIABLE_MARK, (mark, name: string) => {
    const value = values.get(name)?.value ?? '';
    if (value === '') lacking.push(name);
    return value === '' ? mark : value;
  });
  if (lacking.length === 0) return basicCredentials(filled);
  const mark = addUnknown('basicCredentials');
  notes.push(`${mark} is the Base64 of "user:password", which cannot be told without ${lacking.join(' and ')}.`);
  return `Basic ${mark}`;
}
