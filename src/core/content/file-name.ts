import { essence } from '../har';
import { percentDecoded, splitUrl } from '../http';
import { dispositionFileName } from './multipart';

const EXTENSIONS: Readonly<Record<string, string>> = {
  'text/html': 'html',
  'text/css': 'css',
  'text/plain': 'txt',
  'text/csv': 'csv',
  'text/javascript': 'js',
  'application/javascript': 'js',
  'application/json': 'json',
  'application/pdf': 'pdf',
  'application/xml': 'xml',
  'text/xml': 'xml',
  'text/event-stream': 'txt',
  'application/x-ndjson': 'ndjson',
  'application/wasm': 'wasm',
  'application/zip': 'zip',
  'application/gzip': 'gz',
  'application/manifest+json': 'webmanifest',
  'image/png': 'png',
  'image/jpeg': 'jpg',
  'image/gif': 'gif',
  'image/webp': 'webp',
  'image/avif': 'avif',
  'image/svg+xml': 'svg',
  'image/x-icon': 'ico',
  'image/vnd.microsoft.icon': 'ico',
  'font/woff2': 'woff2',
  'font/woff': 'woff',
  'font/ttf': 'ttf',
  'font/otf': 'otf',
  'audio/mpeg': 'mp3',
  'audio/ogg': 'ogg',
  'audio/wav': 'wav',
  'video/mp4': 'mp4',
  'video/webm': 'webm',
};

const LONGEST_NAME_CHARS = 120;
/** File systems take 255; an extension and a number may come behind. */
const LONGEST_NAME_BYTES = 200;
/** Marks that turn text around or are not seen: with them a name reads as another. */
const UNSEEN = /[\u007f-\u009f\u00ad\u061c\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]/g;

/**
 * The name under which a body is saved: as the server names it, else what stands last in the address, with the
 * extension of its type where it has none. Never a name that leads out of a folder or hides.
 */
export function fileNameOf(url: string, mimeType: string | undefined, disposition: string | undefined): string {
  const path = splitUrl(url)?.path ?? url.replace(/[?#].*$/s, '');
  const segment = path.split('/').filter(Boolean).at(-1) ?? '';
  const named = dispositionFileName(disposition ?? '') || percentDecoded(segment);
  const safe = safeName(named);
  const base = safe === '' ? 'index' : safe;
  const type = essence(mimeType);
  const extension = EXTENSIONS[type ?? ''] ?? (type !== undefined && /\+json$/.test(type) ? 'json' : undefined);
  return extension === undefined || /\.[A-Za-z0-9]{1,11}$/.test(base) ? base : `${base}.${extension}`;
}

/**
 * A name that every file system takes, and that neither leads out of a folder nor hides nor reads as another; empty where
 * nothing of it can stay.
 */
export function safeName(text: string): string {
  const characters = [...text]
    .map((char) => (char.charCodeAt(0) < 0x20 || '/\\:*?"<>|'.includes(char) ? '-' : char))
    .join('')
    .toWellFormed()
    .replace(UNSEEN, '')
    .replace(/^[.\s-]+/, '');
  return (
    shortened(characters)
      // Windows keeps these for devices, with any extension, and passes over dots and blanks at the end.
      .replace(/^(?:con|prn|aux|nul|com\d|lpt\d)(?=\.|$)/i, '$&-')
      .replace(/[.\s]+$/, '')
  );
}

/** Cut behind a whole character, before it is too long in characters or in bytes. */
function shortened(text: string): string {
  const encoder = new TextEncoder();
  let bytes = 0;
  let end = 0;
  for (const character of text) {
    bytes += encoder.encode(character).length;
    if (bytes > LONGEST_NAME_BYTES || end + character.length > LONGEST_NAME_CHARS) break;
    end += character.length;
  }
  return text.slice(0, end);
}
