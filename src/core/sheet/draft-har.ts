import { type Draft, draftFromExchange, harRequest, mapTexts, payloadBytes } from '../convert';
import { isObject, type Json, member, NOTE_BEGINS, normaliseEntry, writeHar } from '../har';
import { type DraftFile, DraftFileError } from './draft-file';
import { type KeptDraft, keptFrom, unpackKept } from './kept';
import { inlined } from './variables';

// Drafts as HAR (HAR 1.2): their requests, which nobody has responded to.

/** The file as HAR. Variables are filled in, but for secrets, whose slots stay. @param at when it is saved, in ms since the epoch */
export function draftFileToHar({ drafts, variables }: DraftFile, at: number): string {
  const open = variables.filter(({ isSecret }) => !isSecret);
  const entries = drafts.map((packed) => {
    const { draft, name } = unpackKept(packed);
    return JSON.stringify(
      entryOf(
        mapTexts(draft, (text) => open.reduce(inlined, text)),
        name,
        at,
      ),
    );
  });
  const log = [
    { type: 'value', key: 'version', value: '1.2' },
    { type: 'value', key: 'creator', value: { name: 'Trazado', version: '1' } },
    { type: 'entries' },
  ] as const;
  return [...writeHar({ rootShape: 'object', root: [{ type: 'log' }], log }, { pages: [], entries })].join('');
}

const UNKNOWN = -1;

function entryOf({ method, url, headers, payload }: Draft, name: string, at: number): Json {
  const sent = headers.filter(({ kept }) => kept);
  return {
    startedDateTime: new Date(at).toISOString(),
    time: 0,
    request: harRequest({ method, url, httpVersion: 'HTTP/1.1', headers: sent, body: payloadBytes(payload) }),
    response: {
      status: 0,
      statusText: '',
      httpVersion: '',
      headers: [],
      cookies: [],
      content: { size: 0, mimeType: '' },
      redirectURL: '',
      headersSize: UNKNOWN,
      bodySize: UNKNOWN,
    },
    cache: {},
    timings: { send: 0, wait: 0, receive: 0 },
    comment: NOTE_BEGINS + name,
  } as unknown as Json;
}

/** More requests than these are a capture, which belongs on the shelf. */
const MOST_DRAFTS = 200;

/**
 * The requests of a HAR file as drafts, named by their notes where they have some.
 * @param idOf gives each of them an id
 * @throws DraftFileError
 */
export function draftsFromHar(text: string, idOf: () => string): KeptDraft[] {
  let entries: unknown;
  try {
    entries = (JSON.parse(text) as { log?: { entries?: unknown } } | null)?.log?.entries;
  } catch {
    throw new DraftFileError('The file holds no drafts: it is not JSON.');
  }
  if (!Array.isArray(entries) || entries.length === 0) throw new DraftFileError('The file holds no requests.');
  if (entries.length > MOST_DRAFTS)
    throw new DraftFileError(`The file holds ${entries.length} requests: drop it on the shelf, as a capture.`);
  return (entries as Json[]).flatMap((entry, place) => {
    if (!isObject(entry)) return [];
    const exchange = normaliseEntry(entry, place);
    const comment = member(entry, 'comment');
    const { method, url } = exchange.request;
    const name = typeof comment === 'string' ? comment.replace(NOTE_BEGINS, '') : '';
    return [
      keptFrom(idOf(), (name || `${method} ${url}`).slice(0, 200), draftFromExchange(exchange, 'faithful'), undefined),
    ];
  });
}
