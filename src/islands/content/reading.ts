import type { Shape } from '#core/content';
import type { Content } from './content';

/** The ways to read a content, with the word that each is chosen by. */
export const READINGS_OF = {
  tree: 'tree',
  table: 'table',
  fields: 'fields',
  records: 'one by one',
  parts: 'parts',
  merged: 'merged',
  source: 'source',
  formatted: 'formatted',
  picture: 'picture',
  image: 'image',
  specimen: 'specimen',
  media: 'play',
  pages: 'pages',
  raw: 'raw',
  bytes: 'bytes',
} as const;
export type ReadingId = keyof typeof READINGS_OF;

/** For each shape its readings, the one that suits it best first. */
const BY_SHAPE = {
  json: ['tree', 'table', 'raw', 'bytes'],
  form: ['fields', 'raw', 'bytes'],
  'json-lines': ['records', 'raw', 'bytes'],
  events: ['records', 'raw', 'bytes'],
  multipart: ['parts', 'merged', 'raw', 'bytes'],
  html: ['source', 'formatted', 'picture', 'bytes'],
  code: ['source', 'formatted', 'bytes'],
  text: ['raw', 'bytes'],
  image: ['image', 'bytes'],
  font: ['specimen', 'bytes'],
  audio: ['media', 'bytes'],
  video: ['media', 'bytes'],
  pdf: ['pages', 'bytes'],
  binary: ['bytes'],
} as const satisfies Record<Shape, readonly ReadingId[]>;

/** Larger contents are not laid out: it would take longer than anybody waits. */
const LAID_OUT_BYTES = 3_000_000;

export function readingsFor(content: Content): readonly ReadingId[] {
  return BY_SHAPE[content.shape].filter((id) => {
    switch (id) {
      case 'formatted':
        return content.language !== undefined && content.byteLength <= LAID_OUT_BYTES;
      case 'table':
        // Of a text that is only known in part a table may stand further on.
        return content.isCut || /\[\s*\{/.test(content.text ?? '');
      case 'raw':
        return content.text !== undefined;
      case 'picture':
        return content.address !== undefined;
      case 'merged':
        return /^multipart\/mixed/i.test(content.mimeType ?? '');
      default:
        return true;
    }
  });
}
