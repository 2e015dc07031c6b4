import { essence } from '../har';
import { type Draft, payloadBytes } from './draft';
import { markOf } from './value';

/** What an address has behind its host. */
const BEHIND_HOST = /(?<=^[a-z][a-z0-9+.-]*:\/\/[^/?#]*)[/?#].*$/is;

/** Whether a type is that of a form of names and values (WHATWG URL 5). */
export const isFormType = (contentType: string): boolean =>
  essence(contentType) === 'application/x-www-form-urlencoded';

const isForm = ({ headers }: Draft): boolean =>
  headers.some(({ name, value, kept }) => kept && /^content-type$/i.test(name) && isFormType(value));

/** Changes what of a request is percent-encoded: its address behind the host, and its form. */
export const mapEncoded = (draft: Draft, change: (text: string) => string): Draft => ({
  ...draft,
  url: draft.url.replace(BEHIND_HOST, change),
  payload:
    draft.payload.type === 'text' && isForm(draft) ? { type: 'text', text: change(draft.payload.text) } : draft.payload,
});

/** All text of such places. */
export function encodedPlaces(draft: Draft): string {
  const texts: string[] = [];
  mapEncoded(draft, (text) => {
    texts.push(text);
    return text;
  });
  return texts.join('\n');
}

/** All text of a request that stands elsewhere. */
export const otherPlaces = (draft: Draft): string => textOf(mapEncoded(draft, () => ''));

/**
 * Whether a value without any character that addresses and forms have percent-encoded may have one another time: letters of
 * both cases and nothing between them, as base64 happens to be. Ids, hex and base64url never have one.
 */
export const mayHaveToBeEncoded = (value: string): boolean => /^(?=.*[a-z])(?=.*[A-Z])[A-Za-z0-9]+$/.test(value);

/** Whether such a value, by itself or by the mark of its variable, stands in a request's encoded places alone. */
export function isToBeEncoded(
  draft: Draft,
  { name, value }: { readonly name: string; readonly value: string },
): boolean {
  const stands = (text: string): boolean => text.includes(value) || text.includes(markOf(name));
  return mayHaveToBeEncoded(value) && stands(encodedPlaces(draft)) && !stands(otherPlaces(draft));
}

/** All of a request that a value could stand in. */
export function textOf(draft: Draft): string {
  const bytes = payloadBytes(draft.payload);
  const payload = bytes === undefined ? '' : new TextDecoder().decode(bytes);
  const kept = draft.headers.filter((header) => header.kept).map(({ value }) => value);
  return [draft.url, ...kept, payload].join('\n');
}
