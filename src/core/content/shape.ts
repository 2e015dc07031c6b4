import { essence } from '../har';
import { bodyKind } from './body';

/**
 * What a body is shown as, in match order: by its type, then, where the type says nothing or lies about bytes, by its
 * first bytes (WHATWG MIME Sniffing 6). "text" and "binary" are what is left.
 */
export type Shape =
  | 'image'
  | 'font'
  | 'audio'
  | 'video'
  | 'pdf'
  | 'form'
  | 'multipart'
  | 'events'
  | 'json-lines'
  | 'html'
  | 'json'
  | 'code'
  | 'text'
  | 'binary';

/** The languages that text is coloured and laid out by. */
export type Language = 'javascript' | 'css' | 'html' | 'xml' | 'json' | 'graphql' | 'markdown' | 'yaml';

const TYPE_SHAPES: readonly (readonly [RegExp, Shape])[] = [
  [/^image\//, 'image'],
  [/^font\/|^application\/(x-)?font-|^application\/vnd\.ms-fontobject$/, 'font'],
  [/^audio\//, 'audio'],
  [/^video\//, 'video'],
  [/^application\/pdf$/, 'pdf'],
  [/^application\/x-www-form-urlencoded$/, 'form'],
  [/^multipart\//, 'multipart'],
  [/^text\/event-stream$/, 'events'],
  [/^application\/(x-)?(ndjson|jsonlines|json-seq|json-lines)$|^application\/stream\+json$/, 'json-lines'],
  [/^text\/html$|^application\/xhtml\+xml$/, 'html'],
  [/[/+]json$/, 'json'],
];

const TYPE_LANGUAGES: readonly (readonly [RegExp, Language])[] = [
  [/javascript$|ecmascript$/, 'javascript'],
  [/^text\/css$/, 'css'],
  [/^text\/html$|^application\/xhtml\+xml$/, 'html'],
  [/[/+]xml$/, 'xml'],
  [/[/+]json$/, 'json'],
  [/^application\/graphql$/, 'graphql'],
  [/^text\/markdown$/, 'markdown'],
  [/yaml$/, 'yaml'],
];

/** The language of a text by its type; undefined where it is none that is coloured. */
export function languageOf(mimeType: string | undefined): Language | undefined {
  const type = essence(mimeType) ?? '';
  return TYPE_LANGUAGES.find(([pattern]) => pattern.test(type))?.[1];
}

/** First bytes that tell what a body is, at the place where they stand. */
const SIGNATURES: readonly (readonly [Shape, number, string])[] = [
  ['image', 0, '89504e470d0a1a0a'],
  ['image', 0, '474946383'],
  ['image', 0, 'ffd8ff'],
  ['image', 8, '57454250'],
  ['image', 4, '6674797061766966'],
  ['font', 0, '774f4646'],
  ['font', 0, '774f4632'],
  ['font', 0, '4f54544f'],
  ['font', 0, '0001000000'],
  ['pdf', 0, '255044462d'],
  ['audio', 0, '494433'],
  ['audio', 0, '4f676753'],
  ['audio', 8, '57415645'],
  ['audio', 0, '664c6143'],
  ['video', 0, '1a45dfa3'],
  ['video', 4, '66747970'],
];

/**
 * How a body is shown.
 * @param bytes its bytes, of which the first are looked at
 * @param kind what `bodyKind` finds in them, where that is known
 */
export function bodyShape(mimeType: string | undefined, bytes: Uint8Array, kind = bodyKind(mimeType, bytes)): Shape {
  const isText = kind === 'json' || kind === 'text';
  const head = bytes.subarray(0, HEAD_BYTES);
  const type = essence(mimeType) ?? '';
  const byType = TYPE_SHAPES.find(([pattern]) => pattern.test(type))?.[1];
  const isKnown = byType !== undefined && (isText || !TEXT_SHAPES.has(byType));
  if (isKnown) return byType;
  if (!isText) return bySignature(head) ?? 'binary';
  if (languageOf(mimeType) !== undefined) return 'code';
  const start = new TextDecoder().decode(head).trimStart();
  if (/^(<!doctype html|<html[\s>])/i.test(start)) return 'html';
  return /^(?:\)\]\}',?\s*)?[[{]/.test(start) && type !== 'text/plain' ? 'json' : 'text';
}

/** As much of a body as tells what it is. */
const HEAD_BYTES = 256;

const TEXT_SHAPES: ReadonlySet<Shape> = new Set(['form', 'events', 'json-lines', 'html', 'json']);

function bySignature(head: Uint8Array): Shape | undefined {
  const hex = Array.from(head.subarray(0, 24), (byte) => byte.toString(16).padStart(2, '0')).join('');
  return SIGNATURES.find(([, at, signature]) => hex.startsWith(signature, at * 2))?.[0];
}
