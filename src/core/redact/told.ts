import { formatPlural } from '../wording';
import { KIND_WORDS, SECRET_KINDS, type SecretKind } from './kinds';
import type { Replaced } from './redactor';

// What is told of a redaction: what its proof looked at, and how much was replaced. No value is in it.

/** One thing that a proof looked at. */
export interface ProofLine {
  readonly holds: boolean;
  readonly sentence: string;
  readonly details: readonly string[];
}

/** How many values of a kind were replaced, or left, and in how many places. */
export interface KindCount {
  readonly kind: SecretKind;
  readonly values: number;
  readonly places: number;
}

export const isProven = (lines: readonly ProofLine[]): boolean => lines.every(({ holds }) => holds);

/** By kind, in display order. */
export function countKinds(all: readonly Pick<Replaced, 'secret' | 'count'>[]): KindCount[] {
  return SECRET_KINDS.flatMap((kind) => {
    const own = all.filter(({ secret }) => secret.kind === kind);
    const places = own.reduce((sum, { count }) => sum + count, 0);
    return own.length === 0 ? [] : [{ kind, values: own.length, places }];
  });
}

/** A proof as text, a line for each thing that was looked at. */
export const proofText = (lines: readonly ProofLine[]): string[] =>
  lines.flatMap(({ holds, sentence, details }) => [
    `${holds ? 'ok  ' : 'FAIL'}  ${sentence}`,
    ...details.map((detail) => `      ${detail}`),
  ]);

/** How much was replaced, as it is saved behind the proof. */
export const countText = (counts: readonly KindCount[]): string[] => [
  '',
  'Replaced',
  ...counts.map(
    ({ kind, values, places }) =>
      `  ${KIND_WORDS[kind]}: ${formatPlural(values, 'value')} in ${formatPlural(places, 'place')}`,
  ),
];
