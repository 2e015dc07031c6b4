import type { Draft, DraftPart } from './draft';

/** A file that stands beside the code. */
interface FileBeside {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** A name that is a file's in every system, in the folder that it is put into: not a path, no device, no option. */
const SAFE_NAME = /^(?!-|\.{1,2}$|(?:con|prn|aux|nul|com\d|lpt\d)(?:\.|$))[^\\/:*?"<>|\p{Cc}\p{Cf}]{1,120}(?<![. ])$/iu;

/**
 * A draft whose uploads may be read from files beside the code, and those files: parts of a form that have a name to be a file of, and
 * a payload that is no text. What cannot be a file of its own name stays in the code.
 */
export function withFilesBeside(draft: Draft): { readonly draft: Draft; readonly files: readonly FileBeside[] } {
  const { payload } = draft;
  if (payload.type === 'bytes') {
    const file = { name: 'payload.bin', bytes: payload.bytes };
    return { draft: { ...draft, payload: { ...payload, beside: file.name } }, files: [file] };
  }
  if (payload.type !== 'parts') return { draft, files: [] };
  const files: FileBeside[] = [];
  const parts = payload.parts.map((part): DraftPart => {
    const { fileName: name, bytes } = part;
    if (name === undefined || bytes === undefined || !SAFE_NAME.test(name)) return part;
    // Two files whose names differ in case alone are one in some systems.
    if (files.some((file) => file.name.toLowerCase() === name.toLowerCase())) return part;
    files.push({ name, bytes });
    return { ...part, isBeside: true };
  });
  return { draft: { ...draft, payload: { ...payload, parts } }, files };
}
