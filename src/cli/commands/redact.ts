import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { KINDS, type Kind } from '#core/model';
import {
  countKinds,
  countText,
  isProven,
  KIND_WORDS,
  KINDS_OF_PRESET,
  OwnWordError,
  proofText,
  Redactor,
  readOwnWord,
  type Secret,
  type SecretStore,
  unreadText,
} from '#core/redact';
import { formatCount, formatPlural } from '#core/wording';
import type { Input } from '#server/capture-file';
import { Analyst } from '#server/hand-off/analyst';
import { type Part, partOf } from '#server/hand-off/part';
import { analyseRecorded, proveCapture } from '#server/hand-off/prove';
import { recordedFile } from '#server/hand-off/recorded';
import { findSecretsIn, redactedPieces } from '#server/hand-off/redact';
import { writeAll, writePieces } from '#server/write-pieces';
import { UsageError, withInput } from '../input';
import { layOutTable, printLines, tell } from '../output';
import { NotProven, readPreset } from '../proof';
import { filterRows, readFilter } from '../where';
import { refuseSame, writeChecked } from '../write-file';

interface RedactOptions {
  readonly preset?: string;
  readonly word?: readonly string[];
  readonly where?: string;
  readonly withoutBodies?: readonly string[];
  readonly blank?: readonly string[];
  readonly list?: true;
}

const WAYS_OUT = 'exchanges by --where, bodies by --without-bodies or --blank, or a --word that is part of too much';

/**
 * Writes a capture without its secrets, once it is proven that none of them is left and that nothing else changed; exits with
 * 1, and writes nothing, where the proof fails.
 */
export async function redact(file: string, out: string, options: RedactOptions): Promise<void> {
  refuseSame(file, out);
  const kinds = KINDS_OF_PRESET[readPreset(options.preset)];
  const words = (options.word ?? []).map(readWord);
  const [withoutBodies, blank] = [readKinds(options.withoutBodies), readKinds(options.blank)];
  const folder = mkdtempSync(join(tmpdir(), 'trazado-redact-'));
  const onEntry = (): void => undefined;
  const analyst = new Analyst();
  try {
    await withInput(file, async (input) => {
      const part = readPart(input, options.where, withoutBodies, blank);
      const recorded = analyseRecorded(part, analyst, folder);
      const store = findSecretsIn([part], { kinds, words }, onEntry);
      const redactor = new Redactor(store);
      const target = out === '-' ? join(folder, 'redacted.har') : out;
      await writeChecked(target, redactedPieces(part, redactor, onEntry), async (path) => {
        const written: Input = { path, shown: 'the redacted capture', damage: undefined };
        const lines = await proveCapture({ store, written, recorded, analyst, onEntry });
        if (!isProven(lines)) throw new NotProven(proofText(lines));
        if (out === '-') return;
        const told = [...proofText(lines), ...countText(countKinds(redactor.replaced))];
        writePieces(
          `${out}.proof.txt`,
          told.map((line) => `${line}\n`),
        );
      });
      if (out === '-') writeAll(1, [readFileSync(target, 'utf8')]);
      const list = options.list === true ? listOf(redactor, store) : [];
      if (out === '-') for (const line of list) tell(line);
      else if (list.length > 0) printLines(list);
      for (const line of [...remarksOn(store), ...unmetWords(options.word ?? [], words, redactor)]) tell(line);
    });
  } catch (error) {
    if (!(error instanceof NotProven)) throw error;
    for (const line of error.lines) tell(line);
    tell(`Nothing was written to ${out}. Leave out what is named: ${WAYS_OUT}.`);
    process.exitCode = 1;
  } finally {
    await analyst.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

function readWord(text: string): RegExp | string {
  try {
    return readOwnWord(text);
  } catch (error) {
    throw error instanceof OwnWordError ? new UsageError(error.message) : error;
  }
}

function readKinds(texts: readonly string[] = []): ReadonlySet<Kind> {
  const names = texts.flatMap((text) => text.split(','));
  return new Set(
    names.map((name) => {
      const kind = KINDS.find((one) => one === name.trim());
      if (kind !== undefined) return kind;
      throw new UsageError(`"${name}" is not a kind; use one of ${KINDS.join(', ')}.`);
    }),
  );
}

function readPart(
  input: Input,
  where: string | undefined,
  withoutBodies: ReadonlySet<Kind>,
  blank: ReadonlySet<Kind>,
): Part {
  const recorded = recordedFile(input);
  if (where === undefined) return partOf(recorded, { withoutBodies, blank });
  const places = filterRows(readFilter(where), recorded.analyse(), input);
  if (places.size === 0) throw new UsageError('--where lets no exchange through: there is nothing to write.');
  return partOf(recorded, { places, withoutBodies, blank });
}

/** What was replaced, and what was left to be decided on. Values themselves are not printed: terminals keep what they show. */
function listOf(redactor: Redactor, store: SecretStore): string[] {
  const row = ({ kind, by, name, value, placeholder }: Secret, count: string): string[] => [
    count,
    kind,
    name === '' ? `by its ${by === 'own' ? 'word' : by}` : name,
    `${value.length} characters`,
    placeholder.length > 40 ? `${placeholder.slice(0, 39)}…` : placeholder,
  ];
  return [
    ...layOutTable(
      redactor.replaced.map(({ secret, count }) => row(secret, `${formatCount(count)} x`)),
      new Set([0]),
    ),
    ...(store.left.length === 0 ? [] : ['', 'Left, and suspicious:']),
    ...layOutTable(
      store.left.map((secret) => row({ ...secret, placeholder: '' }, '')),
      new Set([0]),
    ),
  ];
}

/** Words that stand nowhere: most likely they are written otherwise in the capture, and are still in it. */
function unmetWords(typed: readonly string[], words: readonly (RegExp | string)[], redactor: Redactor): string[] {
  const met = redactor.replaced.flatMap(({ secret, count }) => (count > 0 ? [secret.value] : []));
  return words.flatMap((word, at) => {
    const isMet = met.some((value) => (typeof word === 'string' ? value === word : value.search(word) !== -1));
    return isMet
      ? []
      : [`--word ${typed[at]} stands nowhere in what leaves: see that it is written as in the capture.`];
  });
}

function remarksOn(store: SecretStore): string[] {
  const { inPlaceOnly, left } = store;
  const names = [...new Set(inPlaceOnly.map(({ name }) => name))].slice(0, 8).join(', ');
  const kinds = [...new Set(left.map(({ kind }) => KIND_WORDS[kind]))].join(', ');
  const unread = unreadText(store.unread);
  return [
    ...(inPlaceOnly.length === 0
      ? []
      : [
          `${formatPlural(inPlaceOnly.length, 'value')} (${names}) ${inPlaceOnly.length === 1 ? 'is' : 'are'} short or a common word, and replaced only where ${inPlaceOnly.length === 1 ? 'it stands' : 'they stand'} as a secret; add --word to replace one everywhere.`,
        ]),
    ...(left.length === 0
      ? []
      : [`Left as they are: ${kinds} (${formatPlural(left.length, 'value')}); --list names them.`]),
    ...(unread === undefined ? [] : [unread]),
  ];
}
