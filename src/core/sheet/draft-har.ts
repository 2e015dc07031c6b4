import { base64Of, textFromBytes } from '../content';
import { type Draft, mapTexts, payloadBytes } from '../convert';
import { type Json, NOTE_BEGINS, writeHar } from '../har';
import type { DraftFile } from './draft-file';
import { unpackKept } from './kept';
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
  const body = payloadBytes(payload);
  const text = body === undefined ? undefined : textFromBytes(body);
  const sent = headers.filter(({ kept }) => kept).map((header) => ({ name: header.name, value: header.value }));
  const mimeType = sent.find((header) => header.name.toLowerCase() === 'content-type')?.value ?? '';
  const query = url.includes('?') ? new URLSearchParams(url.slice(url.indexOf('?') + 1)) : [];
  return {
    startedDateTime: new Date(at).toISOString(),
    time: 0,
    request: {
      method,
      url,
      httpVersion: 'HTTP/1.1',
      headers: sent,
      queryString: [...query].map(([key, value]) => ({ name: key, value })),
      cookies: [],
      headersSize: UNKNOWN,
      bodySize: body?.length ?? 0,
      ...(body === undefined || body.length === 0
        ? {}
        : {
            postData: text === undefined ? { mimeType, text: base64Of(body), encoding: 'base64' } : { mimeType, text },
          }),
    },
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
