import { findHeader, type Judged, type Kind, type NameValue } from '../model';

export interface KindClues {
  readonly resourceType: string | undefined;
  readonly method: string;
  readonly url: string;
  readonly requestHeaders: readonly NameValue[];
  readonly mimeType: string | undefined;
}

const BY_RESOURCE_TYPE = new Map<string, Kind>([
  ['document', 'document'],
  ['subdocument', 'document'],
  ['stylesheet', 'style'],
  ['css', 'style'],
  ['script', 'script'],
  ['js', 'script'],
  ['font', 'font'],
  ['image', 'image'],
  ['imageset', 'image'],
  ['media', 'media'],
  ['texttrack', 'media'],
  ['xhr', 'data'],
  ['fetch', 'data'],
  ['xmlhttprequest', 'data'],
  ['websocket', 'socket'],
  ['eventsource', 'stream'],
  ['preflight', 'preflight'],
  ['ping', 'report'],
  ['beacon', 'report'],
  ['cspviolationreport', 'report'],
  ['csp_report', 'report'],
  ['manifest', 'other'],
]);

/** Request destinations of WHATWG Fetch 2.2.5, as `sec-fetch-dest` sends them. */
const BY_DESTINATION = new Map<string, Kind>([
  ['document', 'document'],
  ['iframe', 'document'],
  ['frame', 'document'],
  ['embed', 'document'],
  ['object', 'document'],
  ['style', 'style'],
  ['xslt', 'style'],
  ['script', 'script'],
  ['worker', 'script'],
  ['sharedworker', 'script'],
  ['serviceworker', 'script'],
  ['audioworklet', 'script'],
  ['paintworklet', 'script'],
  ['font', 'font'],
  ['image', 'image'],
  ['audio', 'media'],
  ['video', 'media'],
  ['track', 'media'],
  ['report', 'report'],
  ['manifest', 'other'],
]);

const BY_EXTENSION = new Map<string, Kind>([
  ['html', 'document'],
  ['htm', 'document'],
  ['css', 'style'],
  ['js', 'script'],
  ['mjs', 'script'],
  ['woff', 'font'],
  ['woff2', 'font'],
  ['ttf', 'font'],
  ['otf', 'font'],
  ['png', 'image'],
  ['jpg', 'image'],
  ['jpeg', 'image'],
  ['gif', 'image'],
  ['webp', 'image'],
  ['avif', 'image'],
  ['svg', 'image'],
  ['ico', 'image'],
  ['mp4', 'media'],
  ['webm', 'media'],
  ['mp3', 'media'],
  ['json', 'data'],
]);

/**
 * What an exchange fetched, by the best evidence there is, first match wins: a tunnel's method, a preflight's or a socket's own headers,
 * the recorder's type, the fetch metadata, Accept, the MIME type, the address's extension.
 */
export function classifyKind(clues: KindClues): Judged<Kind> {
  const headers = clues.requestHeaders;
  if (clues.method === 'CONNECT') return { value: 'other', evidence: 'CONNECT opens a tunnel' };
  if (clues.method === 'OPTIONS' && findHeader(headers, 'access-control-request-method') !== undefined) {
    return { value: 'preflight', evidence: 'OPTIONS with Access-Control-Request-Method' };
  }
  if (/^wss?:/i.test(clues.url)) return { value: 'socket', evidence: 'its address is a WebSocket address' };
  if (findHeader(headers, 'upgrade')?.toLowerCase() === 'websocket') {
    return { value: 'socket', evidence: 'Upgrade: websocket' };
  }
  const mime = essence(clues.mimeType);
  const accept = findHeader(headers, 'accept')?.toLowerCase() ?? '';
  if (mime === 'text/event-stream' || accept.startsWith('text/event-stream')) {
    return { value: 'stream', evidence: 'text/event-stream' };
  }
  const type = clues.resourceType?.toLowerCase();
  const recorded = type === undefined ? undefined : BY_RESOURCE_TYPE.get(type);
  if (recorded !== undefined) return { value: recorded, evidence: `recorded resource type: ${type}` };
  return byMetadata(headers, accept) ?? byMime(mime) ?? byExtension(clues.url);
}

function byMetadata(headers: readonly NameValue[], accept: string): Judged<Kind> | undefined {
  const destination = findHeader(headers, 'sec-fetch-dest')?.toLowerCase();
  const kind = destination === undefined ? undefined : BY_DESTINATION.get(destination);
  if (kind !== undefined) return { value: kind, evidence: `Sec-Fetch-Dest: ${destination}` };
  const mode = findHeader(headers, 'sec-fetch-mode')?.toLowerCase();
  if (mode === 'websocket') return { value: 'socket', evidence: 'Sec-Fetch-Mode: websocket' };
  if (mode === 'navigate') return { value: 'document', evidence: 'Sec-Fetch-Mode: navigate' };
  if (destination === 'empty') return { value: 'data', evidence: 'Sec-Fetch-Dest: empty' };
  if (findHeader(headers, 'x-requested-with')?.toLowerCase() === 'xmlhttprequest') {
    return { value: 'data', evidence: 'X-Requested-With: XMLHttpRequest' };
  }
  if (accept.startsWith('text/html')) return { value: 'document', evidence: 'Accept begins with text/html' };
  if (accept.startsWith('image/')) return { value: 'image', evidence: 'Accept begins with image/' };
  if (accept.startsWith('text/css')) return { value: 'style', evidence: 'Accept begins with text/css' };
  if (accept.startsWith('application/json')) return { value: 'data', evidence: 'Accept begins with application/json' };
  return undefined;
}

function byMime(mime: string | undefined): Judged<Kind> | undefined {
  if (mime === undefined) return undefined;
  const evidence = `Content-Type ${mime}`;
  if (mime === 'text/html' || mime === 'application/xhtml+xml') return { value: 'document', evidence };
  if (mime === 'text/css') return { value: 'style', evidence };
  if (/^(text|application)\/(x-)?(java|ecma)script$/.test(mime)) return { value: 'script', evidence };
  if (mime.startsWith('image/')) return { value: 'image', evidence };
  if (mime.startsWith('font/') || /font|woff/.test(mime)) return { value: 'font', evidence };
  if (mime.startsWith('audio/') || mime.startsWith('video/')) return { value: 'media', evidence };
  if (/[/+]json$|\/x-ndjson$|graphql|[/+]xml$|protobuf|grpc/.test(mime)) return { value: 'data', evidence };
  return undefined;
}

function byExtension(url: string): Judged<Kind> {
  const extension = /\.([a-z0-9]{2,5})(?:[?#]|$)/i.exec(url)?.[1]?.toLowerCase();
  const kind = extension === undefined ? undefined : BY_EXTENSION.get(extension);
  if (kind !== undefined) return { value: kind, evidence: `its address ends in .${extension}` };
  return { value: 'other', evidence: 'nothing in it says more' };
}

/** The type without parameters, in lower case (WHATWG MIME Sniffing 4.4). "x-unknown" is a recorder's word for none. */
export function essence(mimeType: string | undefined): string | undefined {
  const type = mimeType?.split(';', 1)[0]?.trim().toLowerCase();
  return type === undefined || type === '' || type === 'x-unknown' ? undefined : type;
}
