import { base64Of, bytesFromBase64, bytesFromText } from '../content';
import type { Draft, DraftPart, DraftPayload } from './draft';
import { FIRST_LOOP, type LoopFields } from './loops/fields';

/** A part as JSON takes it: its bytes in base64. */
type PackedPart = Omit<DraftPart, 'bytes'> & { readonly base64?: string };
type PackedPayload =
  | Exclude<DraftPayload, { readonly type: 'bytes' | 'parts' }>
  | { readonly type: 'bytes'; readonly base64: string }
  | { readonly type: 'parts'; readonly boundary: string; readonly parts: readonly PackedPart[] };
/** A draft as JSON takes it. */
export type PackedDraft = Omit<Draft, 'payload'> & { readonly payload: PackedPayload };

/** A draft as it is kept with its capture. */
export interface KeptDraft {
  readonly id: string;
  readonly name: string;
  /** The exchange that it was made from; absent for one that was pasted or begun empty. */
  readonly exchange: number | undefined;
  readonly draft: Draft;
  /** Pieces of the query that are left out for now, as they stood: "name=value". */
  readonly spareQuery: readonly string[];
  /** What is done beyond one request, as it was last set; absent where nobody has. */
  readonly loop?: LoopFields;
}

export type PackedKeptDraft = Omit<KeptDraft, 'draft'> & { readonly draft: PackedDraft };

export const packKept = (kept: KeptDraft): PackedKeptDraft => ({
  ...kept,
  draft: { ...kept.draft, payload: packPayload(kept.draft.payload) },
});

/** A draft from what was kept of it; fields of loops that came since are as they first are. */
export const unpackKept = ({ loop, ...packed }: PackedKeptDraft): KeptDraft => ({
  ...packed,
  ...(loop === undefined ? {} : { loop: { ...FIRST_LOOP, ...loop } }),
  draft: { ...packed.draft, payload: unpackPayload(packed.draft.payload) },
});

function packPayload(payload: DraftPayload): PackedPayload {
  if (payload.type === 'bytes') return { type: 'bytes', base64: base64Of(payload.bytes) };
  if (payload.type !== 'parts') return payload;
  const parts = payload.parts.map(({ bytes, ...part }) => ({
    ...part,
    ...(bytes === undefined ? {} : { base64: base64Of(bytes) }),
  }));
  return { ...payload, parts };
}

function unpackPayload(payload: PackedPayload): DraftPayload {
  if (payload.type === 'bytes') return { type: 'bytes', bytes: bytesFromBase64(payload.base64) ?? new Uint8Array() };
  if (payload.type !== 'parts') return payload;
  const parts = payload.parts.map(
    ({ base64, name, fileName, contentType }): DraftPart => ({
      name,
      fileName,
      contentType,
      bytes: base64 === undefined ? undefined : (bytesFromBase64(base64) ?? bytesFromText('')),
    }),
  );
  return { ...payload, parts };
}
