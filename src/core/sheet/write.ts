import { type Draft, type DraftHeader, splitQuery } from '../convert';
import { findHeader } from '../model';
import { attachmentsOf } from './attach';
import { LAYOUTS } from './layouts';
import { type Attachment, type LayoutId, type Sheet, STRUCK } from './sheet';

/** A line end in a header's value, which no request has; it is shown, and is a line end again when it is read. */
export const LINE_END = '␊';

/**
 * A draft as a sheet: method and scheme with host, path, each piece of the query, the headers, and after a blank line the
 * payload. Reading it gives the same draft.
 * @param spareQuery pieces of the query that are left out: struck lines behind the others
 */
export function writeSheet(draft: Draft, spareQuery: readonly string[] = []): Sheet {
  const { layout, text } = laidOut(draft);
  // An empty payload is one: its length is sent.
  const isNone = text === '' && draft.payload.type !== 'text';
  const address = addressLines(draft, spareQuery);
  // What HTTP/2 says of the address stands in the address.
  const headers = draft.headers.filter(({ name, kept }) => kept || !name.startsWith(':')).map(headerLine);
  const lines = [
    ...address,
    ...(headers.length === 0 && isNone ? [] : ['', ...headers]),
    ...(isNone ? [] : ['', text]),
  ];
  return { text: lines.join('\n'), layout, attachments: attachmentsOf(draft.payload) };
}

/** The payload as it is laid out first: as what it is. */
export function laidOut(draft: Draft): { readonly layout: LayoutId; readonly text: string } {
  const contentType = findHeader(draft.headers, 'content-type') ?? '';
  for (const { id, write } of LAYOUTS) {
    const text = write(draft.payload, contentType);
    if (text !== undefined) return { layout: id, text };
  }
  return { layout: 'plain', text: '' };
}

function addressLines({ method, url }: Draft, spareQuery: readonly string[]): string[] {
  // What ends a line never goes out in an address; it is sent encoded, and stands so here.
  const address = url.replaceAll('\n', '%0A');
  const { base, pieces } = splitQuery(address);
  const [, origin = base, path = ''] = /^([a-z][a-z0-9+.-]*:\/\/[^/]*)(\/.*)?$/is.exec(base) ?? [];
  return [
    `${method} ${origin}`,
    ...(path === '' ? [] : [path]),
    ...pieces.map((piece, at) => `${at === 0 ? '?' : '&'}${piece}`),
    ...spareQuery.map((piece) => `${STRUCK}&${piece.replaceAll('\n', '%0A')}`),
  ];
}

const headerLine = ({ name, value, kept }: DraftHeader): string =>
  `${kept ? '' : STRUCK}${name}: ${value.replaceAll('\n', LINE_END)}`;

/** Attachments of both, each once. */
export const joinAttachments = (some: readonly Attachment[], others: readonly Attachment[]): readonly Attachment[] => [
  ...some,
  ...others.filter(({ key }) => !some.some((one) => one.key === key)),
];
