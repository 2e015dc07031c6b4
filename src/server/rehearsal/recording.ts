import { closeSync, openSync, readSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { hashPayload } from '#core/analysis';
import { isObject, type Json, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { type CapturedRequest, originOf } from '#core/rehearse';
import { type Input, readEntries } from '../capture-file';
import { listRequests } from '../db/captures';
import type { Connection } from '../db/connection';
import { getExchange } from '../dossier';
import { KeptLately } from './kept-lately';

/** A capture as a rehearsal plays it: little of each exchange is kept, the rest is read when it is asked for. */
export interface Recording {
  /** In captured order. */
  readonly requests: readonly CapturedRequest[];
  /** The address of its first page, else that of its first request. */
  readonly mainUrl: string | undefined;
  readonly read: (index: number) => Exchange;
  readonly close: () => void;
}

const KEPT_BYTES = 48 * 1024 * 1024;

/** About what an exchange takes. */
const sizeOf = ({ request, outcome }: Exchange): number =>
  4000 +
  (request.payload?.recorded?.text.length ?? 0) * 2 +
  (outcome.type === 'unanswered' ? 0 : (outcome.response.body?.text.length ?? 0) * 2);

/** Only what has a host was asked of a server: not `data:`, `blob:` or what an extension has in itself. */
const isAsked = ({ url }: { readonly url: string }): boolean => originOf(url) !== undefined;

function keptLately(read: (index: number) => Exchange): (index: number) => Exchange {
  const kept = new KeptLately<number, Exchange>(KEPT_BYTES);
  return (index) => kept.get(index, () => read(index), sizeOf);
}

/** A capture of the shelf. @param places which of its exchanges; all of them where absent */
export function recordingInStore(
  connection: Connection,
  captureId: string,
  places: ReadonlySet<number> | undefined,
): Recording {
  const all = listRequests(connection, captureId).filter(isAsked);
  const requests = places === undefined ? all : all.filter(({ index }) => places.has(index));
  return {
    requests,
    mainUrl: (requests.find(({ kind }) => kind === 'document') ?? requests[0])?.url,
    read: keptLately((index) => getExchange(connection, captureId, index)),
    close: () => undefined,
  };
}

/** A capture in a file: its entries are laid down one by one in a file of the folder, so that each can be read again. */
export function recordingOfFile(input: Input, folder: string, places: ReadonlySet<number> | undefined): Recording {
  const file = openSync(join(folder, 'entries'), 'w+');
  const requests: CapturedRequest[] = [];
  let mainUrl: string | undefined;
  const spans = new Map<number, { readonly at: number; readonly length: number }>();
  let at = 0;
  for (const { value, place } of readEntries(input)) {
    if (!isObject(value) || places?.has(place) === false) continue;
    const { request, kind } = normaliseEntry(value, place);
    if (!isAsked(request)) continue;
    requests.push({
      index: place,
      method: request.method,
      url: request.url,
      isSocket: kind.value === 'socket',
      payloadHash: hashPayload(request),
    });
    if (kind.value === 'document') mainUrl ??= request.url;
    const bytes = Buffer.from(JSON.stringify(value));
    writeSync(file, bytes);
    spans.set(place, { at, length: bytes.length });
    at += bytes.length;
  }
  const read = (index: number): Exchange => {
    const span = spans.get(index);
    if (span === undefined) throw new Error(`exchange ${index} is not played`);
    const bytes = Buffer.allocUnsafe(span.length);
    readSync(file, bytes, 0, span.length, span.at);
    const value = JSON.parse(bytes.toString('utf8')) as Json;
    if (!isObject(value)) throw new Error(`exchange ${index} is none`);
    return normaliseEntry(value, index);
  };
  return { requests, mainUrl: mainUrl ?? requests[0]?.url, read: keptLately(read), close: () => closeSync(file) };
}
