import { textFromBytes } from '../content';
import { EMPTY_DRAFT, FALLBACK_BOUNDARY, payloadBytes } from '../convert';
import { findHeader } from '../model';
import { attachmentOf } from './attach';
import { withHeaderLine } from './header-line';
import { layoutOf } from './layouts';
import { readSheet, splitSheet } from './read';
import { type LayoutId, type Sheet, STRUCK } from './sheet';
import { joinAttachments } from './write';

/** What a payload of each layout is called in Content-Type, where it says nothing that fits. */
const TYPES: Readonly<Record<LayoutId, { readonly fits: RegExp; readonly type: string } | undefined>> = {
  json: { fits: /json/i, type: 'application/json' },
  fields: { fits: /x-www-form-urlencoded/i, type: 'application/x-www-form-urlencoded' },
  parts: { fits: /^multipart\//i, type: `multipart/form-data; boundary=${FALLBACK_BOUNDARY}` },
  plain: undefined,
  bytes: undefined,
  file: undefined,
  unrecorded: undefined,
};

/** What stands there first where nothing of what was there can be laid out so. */
const FIRST: Readonly<Record<LayoutId, string>> = {
  json: '{}',
  fields: 'name=value',
  parts: `--${FALLBACK_BOUNDARY}\nContent-Disposition: form-data; name="name"\n\nvalue\n--${FALLBACK_BOUNDARY}--`,
  file: 'payload.bin',
  plain: '',
  bytes: '',
  unrecorded: '',
};

/** The sheet with its payload laid out another way, and a Content-Type that fits. What was there stays where it can. */
export function relayout(sheet: Sheet, layout: LayoutId): Sheet {
  if (layout === sheet.layout) return sheet;
  const { draft } = readSheet(sheet, EMPTY_DRAFT);
  const bytes = payloadBytes(draft.payload);
  const text = bytes === undefined ? undefined : textFromBytes(bytes);
  const asText = text === undefined ? draft.payload : ({ type: 'text', text } as const);
  const { write } = layoutOf(layout);
  const fitting = TYPES[layout]?.type ?? '';
  const laidOut =
    layout === 'bytes' && bytes !== undefined
      ? write({ type: 'bytes', bytes }, '')
      : (write(draft.payload, fitting) ??
        (asText.type === 'text' && asText.text !== '' ? write(asText, fitting) : undefined));
  const payload = laidOut ?? (layout === 'plain' && text !== undefined ? text : FIRST[layout]);
  const attachments =
    layout === 'bytes' && bytes !== undefined
      ? joinAttachments(sheet.attachments, [attachmentOf(bytes)])
      : sheet.attachments;
  return {
    text: withPayload(withType(sheet, layout, findHeader(draft.headers, 'content-type')), payload),
    layout,
    attachments,
  };
}

/** The text of a sheet whose Content-Type fits a layout. */
function withType(sheet: Sheet, layout: LayoutId, type: string | undefined): Sheet {
  const wanted = TYPES[layout];
  if (wanted === undefined || (type !== undefined && wanted.fits.test(type))) return sheet;
  const lines = splitSheet(sheet);
  const at = lines.findIndex(({ kind, text }) => kind === 'header' && /^(?:✗ )?content-type:/i.test(text));
  const line = `Content-Type: ${wanted.type}`;
  if (at === -1) return { ...sheet, text: withHeaderLine(lines, line) };
  const texts = lines.map(({ text }) => text);
  texts[at] = line;
  return { ...sheet, text: texts.join('\n') };
}

/** The text of a sheet with another payload. */
function withPayload(sheet: Sheet, payload: string): string {
  const lines = splitSheet(sheet);
  const head = lines.filter(({ kind }) => kind !== 'payload').map(({ text }) => text);
  while (head.at(-1)?.trim() === '') head.pop();
  if (payload === '') return head.join('\n');
  const hasHeaders = lines.some(({ kind }) => kind === 'header');
  return [...head, ...(hasHeaders ? [''] : ['', '']), payload].join('\n');
}

/** The sheet with bytes attached: in a form of parts they are the content of the part at a line, else the payload. */
export function attach(sheet: Sheet, bytes: Uint8Array, at: number): Sheet {
  const attachment = attachmentOf(bytes);
  const line = `[attached: ${attachment.key}]`;
  const attachments = joinAttachments(sheet.attachments, [attachment]);
  if (sheet.layout !== 'parts') return { text: withPayload(sheet, line), layout: 'bytes', attachments };
  const lines = splitSheet(sheet);
  const texts = lines.map(({ text }) => text);
  const isBoundary = (text: string | undefined): boolean => /^--\S/.test((text ?? '').replace(STRUCK, ''));
  let from = Math.max(
    at,
    lines.findIndex(({ kind }) => kind === 'payload'),
  );
  while (from > 0 && !isBoundary(texts[from])) from--;
  const gap = texts.findIndex((text, place) => place > from && text === '');
  const end = texts.findIndex((text, place) => place > from && isBoundary(text));
  if (gap === -1 || end === -1 || gap > end) return sheet;
  texts.splice(gap + 1, end - gap - 1, line);
  return { ...sheet, text: texts.join('\n'), attachments };
}
