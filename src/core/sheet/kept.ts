import { base64Of, bytesFromBase64 } from '../content';
import { type Draft, type DraftPart, FIRST_LOOP, type LoopFields, mapTexts, markOf, type Variable } from '../convert';
import { readSheet } from './read';
import type { Sheet } from './sheet';
import { writeSheet } from './write';

/** A draft as it is kept with its capture. */
export interface KeptDraft {
  readonly id: string;
  readonly name: string;
  /** The exchange that it was made from; absent for one that was pasted or begun empty. */
  readonly exchange: number | undefined;
  readonly sheet: Sheet;
  /** What the sheet says, as it was last read. */
  readonly draft: Draft;
  /** What is done beyond one request, as it was last set; absent where nobody has. */
  readonly loop?: LoopFields;
  /** The parts that a trim found to be needed, each with the reason; absent where none was made. */
  readonly needed?: readonly { readonly key: string; readonly reason: string }[];
  /** How it is sent, where that was set. */
  readonly way?: SendWay;
}

/** How a draft is sent, beside what its sheet says. */
export interface SendWay {
  /** Address, or address and port, that its host is sent to in place of its own. */
  readonly toHost?: string;
  /** Host and port of a proxy. */
  readonly proxy?: string;
  readonly wantsHttp2?: boolean;
  readonly timeLimitS?: number;
}

/** Of a draft what its sheet does not say. */
export type UnsaidByTheSheet = Omit<Draft, 'method' | 'url' | 'payload'>;

/** A draft as JSON takes it: its sheet, attachments in base64, and what the sheet does not say. */
export interface PackedKeptDraft extends Omit<KeptDraft, 'sheet' | 'draft'> {
  readonly sheet: Omit<Sheet, 'attachments'> & {
    readonly attachments: readonly { readonly key: string; readonly base64: string }[];
  };
  readonly draft: UnsaidByTheSheet;
}

export function packKept({ draft, sheet, ...kept }: KeptDraft): PackedKeptDraft {
  const { method: _method, url: _url, payload: _payload, ...unsaid } = draft;
  const attachments = sheet.attachments.map(({ key, bytes }) => ({ key, base64: base64Of(bytes) }));
  return { ...kept, sheet: { ...sheet, attachments }, draft: unsaid };
}

/** A draft from what was kept of it, by whichever version; fields of loops that came since are as they first are. */
export function unpackKept(packed: PackedKeptDraft | OldKeptDraft): KeptDraft {
  if (!('sheet' in packed)) return fromForm(packed);
  const { loop, draft, ...rest } = packed;
  const attachments = packed.sheet.attachments.map(({ key, base64 }) => ({
    key,
    bytes: bytesFromBase64(base64) ?? new Uint8Array(),
  }));
  const sheet = { ...packed.sheet, attachments };
  const before: Draft = { ...draft, method: '', url: '', payload: { type: 'none' } };
  return {
    ...rest,
    ...(loop === undefined ? {} : { loop: { ...FIRST_LOOP, ...loop } }),
    sheet,
    draft: readSheet(sheet, before).draft,
  };
}

/** A draft as it was kept before there were sheets: field by field, variables as `{{name}}`. */
export interface OldKeptDraft {
  readonly id: string;
  readonly name: string;
  readonly exchange?: number | undefined;
  readonly spareQuery: readonly string[];
  readonly loop?: Partial<LoopFields>;
  readonly draft: Omit<Draft, 'payload'> & {
    readonly payload:
      | Exclude<Draft['payload'], { readonly type: 'bytes' | 'parts' }>
      | { readonly type: 'bytes'; readonly base64: string }
      | {
          readonly type: 'parts';
          readonly boundary: string;
          readonly parts: readonly (Omit<DraftPart, 'bytes'> & { readonly base64?: string })[];
        };
  };
}

function fromForm({ id, name, exchange, spareQuery, loop, draft: old }: OldKeptDraft): KeptDraft {
  const draft = withMarks({ ...old, payload: oldPayload(old.payload) });
  return {
    id,
    name,
    exchange,
    sheet: writeSheet(draft, spareQuery),
    draft,
    ...(loop === undefined ? {} : { loop: { ...FIRST_LOOP, ...loop } }),
  };
}

/** Marks of variables as they are written now; what only looks like one, and names none, was text and stays it. */
const withMarks = (draft: Draft): Draft =>
  mapTexts(draft, (text) =>
    text.replace(/\{\{([A-Za-z][A-Za-z0-9_]*)\}\}/g, (mark, name: string) =>
      draft.variables.some((variable) => variable.name === name) ? markOf(name) : mark,
    ),
  );

function oldPayload(payload: OldKeptDraft['draft']['payload']): Draft['payload'] {
  if (payload.type === 'bytes') return { type: 'bytes', bytes: bytesFromBase64(payload.base64) ?? new Uint8Array() };
  if (payload.type !== 'parts') return payload;
  const parts = payload.parts.map(
    ({ base64, name, fileName, contentType }): DraftPart => ({
      name,
      fileName,
      contentType,
      bytes: base64 === undefined ? undefined : (bytesFromBase64(base64) ?? new Uint8Array()),
    }),
  );
  return { ...payload, parts };
}

/** A draft and its sheet, laid out anew. */
export const keptFrom = (id: string, name: string, draft: Draft, exchange: number | undefined): KeptDraft => ({
  id,
  name,
  exchange,
  sheet: writeSheet(draft),
  draft,
});

/** The draft with another text on its sheet, or the variables of its capture as they are now. */
export function withSheet(
  kept: KeptDraft,
  sheet: Sheet,
  variables: readonly Variable[] = kept.draft.variables,
): KeptDraft {
  return { ...kept, sheet, draft: readSheet(sheet, kept.draft, variables).draft };
}
