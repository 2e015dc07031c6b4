import type { Seeming } from './dressing';

/** Why bytes could not be read as a capture. Codes with measured values; the sentences are in wording.ts. */
export type HarProblem =
  | { readonly code: 'empty-file' }
  | { readonly code: 'not-json'; readonly atByte: number; readonly expected: string; readonly found: string }
  | { readonly code: 'not-har'; readonly where: string; readonly expected: string; readonly found: string }
  | { readonly code: 'cut-too-early'; readonly atByte: number }
  | { readonly code: 'another-kind'; readonly seems: Seeming }
  | { readonly code: 'damaged-archive'; readonly kind: 'gzip' | 'zip' }
  | { readonly code: 'locked-archive'; readonly name: string }
  | { readonly code: 'unknown-packing'; readonly name: string; readonly method: number }
  | { readonly code: 'unpacks-too-large'; readonly packedBytes: number; readonly unpackedBytes: number }
  | { readonly code: 'no-capture-inside'; readonly inner: string | undefined };

/** Thrown by the reader when nothing of a file can be kept. */
export class HarError extends Error {
  readonly problem: HarProblem;

  constructor(problem: HarProblem, message: string) {
    super(message);
    this.name = 'HarError';
    this.problem = problem;
  }
}
