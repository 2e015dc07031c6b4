import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { member } from '#core/har';
import { differencesInAnalysis, KIND_WORDS, type Leak, type ProofLine, Prover, type SecretStore } from '#core/redact';
import { formatCount, formatPlural } from '#core/wording';
import { type Input, readEntries } from '../capture-file';
import { writePieces } from '../write-pieces';
import type { Analyst } from './analyst';
import type { Analysis } from './analyst-protocol';
import { membersOf, type Part, piecesOf } from './part';
import { unpackContent } from './unpacked';

interface ProofOrder {
  readonly store: SecretStore;
  /** The file that would leave. */
  readonly written: Input;
  /** The analysis of what is to leave, before anything is taken out. */
  readonly recorded: Promise<Analysis>;
  readonly analyst: Analyst;
  readonly onEntry: () => void;
}

/** Reads what was written again: no value is left, nothing is missing, and its analysis is that of what was to leave. */
export async function proveCapture(order: ProofOrder): Promise<readonly ProofLine[]> {
  const { store, written, analyst, onEntry } = order;
  const leaving = analyst.analyse(written);
  const everywhere = store.secrets.filter(({ isEverywhere }) => isEverywhere);
  const prover = new Prover(everywhere);
  const entries = readEntries(written);
  let next = entries.next();
  let [count, bytesOnly] = [0, 0];
  for (; next.done !== true; next = entries.next()) {
    const { value, place } = next.value;
    prover.look(value, `entries[${place}]`);
    for (const [message, name] of CONTENTS) {
      const { texts, isText } = unpackContent(member(member(value, message), name));
      for (const { text, as } of texts) prover.text(text, `entries[${place}].${message}.${name}.text`, as);
      if (!isText) bytesOnly++;
    }
    onEntry();
    count++;
  }
  const end = next.value;
  for (const [at, page] of end.rawPages.entries()) prover.look(page, `pages[${at}]`);
  for (const { key, value } of membersOf(end.outline)) prover.look(value, key);
  const { wrapper } = end.outline;
  for (const text of [wrapper?.before ?? '', wrapper?.after ?? '']) prover.text(text, 'what stands around the capture');
  const recorded = await order.recorded;
  const expected = recorded.rows.length;
  return [
    leakLine(prover.leaks, everywhere.length, `is left, in any encoding${tellBytes(bytesOnly)}`),
    {
      holds: count === expected,
      sentence: `what was written loads: ${formatPlural(count, 'exchange')}`,
      details: count === expected ? [] : [`${formatPlural(expected, 'exchange')} were to leave`],
    },
    differenceLine(differencesOf(recorded, await leaving)),
  ];
}

/** Where bytes may be text. */
const CONTENTS = [
  ['request', 'postData'],
  ['response', 'content'],
] as const;

/** A picture, a font or an archive may show, or hold packed, what nobody can find in its bytes. */
const tellBytes = (bodies: number): string =>
  bodies === 0
    ? ''
    : `; of ${bodies === 1 ? '1 body that is' : `${formatCount(bodies)} bodies that are`} no text only the bytes were looked through`;

/** What the proof says of values that are left. @param where "is left, in any encoding" */
export const leakLine = (leaks: readonly Leak[], values: number, where: string): ProofLine => ({
  holds: leaks.length === 0,
  sentence:
    values === 0 ? 'no value was to be inked out everywhere' : `none of ${formatPlural(values, 'value')} ${where}`,
  details: leaks.map(wordLeak),
});

/** Says where a value is left, never what it is. */
const wordLeak = ({ secret, path, as }: Leak): string =>
  `one of ${KIND_WORDS[secret.kind]}${secret.name === '' ? '' : ` (${secret.name})`} is left at ${path}, ${as}`;

const MOST_DIFFERENCES = 20;

export const differenceLine = (differences: readonly string[]): ProofLine => ({
  holds: differences.length === 0,
  sentence: 'times, sizes, sources, routes and findings are as they were recorded',
  details: differences.slice(0, MOST_DIFFERENCES),
});

export const differencesOf = (recorded: Analysis, leaving: Analysis): string[] =>
  differencesInAnalysis(captureOf(recorded), captureOf(leaving));

const captureOf = ({ rows, overview, found }: Analysis) => ({ rows, pages: overview.pages, found });

/**
 * The analysis of what is to leave, before anything is taken out. Begins at once.
 * @param folder for what is thrown away behind it
 */
export function analyseRecorded(part: Part, analyst: Analyst, folder: string): Promise<Analysis> {
  if (part.isWhole) return part.recorded.analyseApart(analyst);
  const path = join(folder, 'part.har');
  // Secrets are in it.
  const remove = (): void => rmSync(path, { force: true });
  try {
    writePieces(path, piecesOf(part));
  } catch (error) {
    remove();
    throw error;
  }
  const analysis = analyst.analyse({ path, shown: 'the part that leaves', damage: undefined });
  void analysis.then(remove, remove);
  return analysis;
}
