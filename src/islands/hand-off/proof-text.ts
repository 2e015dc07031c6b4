import { KIND_WORDS } from '#core/redact';
import type { MadeHandOff } from '#core/wire';
import { formatPlural } from '#core/wording';
import { byKind } from './choices';

/** The proof as it is saved beside what leaves: what holds, and how much was inked out. No value is in it. */
export function proofText({ proof, replaced }: Pick<MadeHandOff, 'proof' | 'replaced'>): string {
  const lines = [
    ...proof.flatMap(({ holds, sentence, details }) => [
      `${holds ? 'ok  ' : 'FAIL'}  ${sentence}`,
      ...details.map((detail) => `      ${detail}`),
    ]),
    '',
    'Inked out',
    ...byKind(replaced).map(([kind, own]) => {
      const places = own.reduce((sum, { count }) => sum + count, 0);
      return `  ${KIND_WORDS[kind]}: ${formatPlural(own.length, 'value')} in ${formatPlural(places, 'place')}`;
    }),
  ];
  return `${lines.join('\n')}\n`;
}
