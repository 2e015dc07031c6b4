import { hex, UNSEEN } from './escape';

const NAMED: Readonly<Record<string, string>> = { '\n': '#(lf)', '\r': '#(cr)', '\t': '#(tab)' };

const coded = (character: string): string => {
  const codePoint = character.codePointAt(0) ?? 0;
  return NAMED[character] ?? `#(${hex(codePoint, codePoint < 65536 ? 4 : 8)})`;
};

/** A text literal of M: a quote is doubled, "#(" begins an escape (Power Query M specification, Character escape sequences). */
export const quotePowerM = (text: string): string =>
  `"${text.toWellFormed().replaceAll('#(', '#(#)(').replaceAll('"', '""').replace(UNSEEN, coded)}"`;

/** A name of M in the form that takes any text. */
export const powerMName = (text: string): string => `#${quotePowerM(text)}`;
