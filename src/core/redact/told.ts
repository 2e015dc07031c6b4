import { formatPlural } from '../wording';
import { BINARY_MESSAGE } from './entry';
import { KIND_WORDS, SECRET_KINDS, type SecretKind } from './kinds';
import type { Replaced } from './redactor';
import type { UnreadBody } from './store';

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

const MOST_NAMED = 5;

/** What is said of bodies that were not read for secrets; undefined where all were. */
export function unreadText(unread: readonly UnreadBody[]): string | undefined {
  if (unread.length === 0) return undefined;
  const types = namedFew([...new Set(unread.flatMap(({ mimeType }) => mimeType ?? []))]);
  const places = namedFew([...new Set(unread.flatMap(({ at }) => (at === undefined ? [] : `#${at}`)))]);
  const about = [types, places].filter((one) => one !== '').join('; ');
  const messages = unread.filter(({ mimeType }) => mimeType === BINARY_MESSAGE).length;
  const [one, several] =
    messages === 0
      ? ['body', 'bodies']
      : messages === unread.length
        ? ['message', 'messages']
        : ['body or message', 'bodies and messages'];
  const isOne = unread.length === 1;
  const reason = unread.every(({ why }) => why === 'bytes') ? 'no text' : 'no text, or too long';
  return (
    `${formatPlural(unread.length, one, several)}${about === '' ? '' : ` (${about})`} ${isOne ? 'is' : 'are'} ${reason}: what was ` +
    `found elsewhere is taken out of ${isOne ? 'it' : 'them'}, and nothing else was looked for. Leave ${isOne ? 'it' : 'them'} out unless you know what ${isOne ? 'it holds' : 'they hold'}.`
  );
}

const namedFew = (all: readonly string[]): string =>
  all.length > MOST_NAMED
    ? `${all.slice(0, MOST_NAMED).join(', ')} and ${all.length - MOST_NAMED} more`
    : all.join(', ');

/** How much was replaced, as it is saved behind the proof. */
export const countText = (counts: readonly KindCount[]): string[] => [
  '',
  'Replaced',
  ...counts.map(
    ({ kind, values, places }) =>
      `  ${KIND_WORDS[kind]}: ${formatPlural(values, 'value')} in ${formatPlural(places, 'place')}`,
  ),
];
