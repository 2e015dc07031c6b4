import { closeSync, mkdtempSync, openSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type HarEnd, type HarOutline, type Json, writeHar } from '#core/har';
import { type ExchangeIndex, KINDS, type Kind } from '#core/model';
import {
  type AnalysedCapture,
  differencesInAnalysis,
  findInEntry,
  findInText,
  KIND_WORDS,
  Prover,
  Redactor,
  type RedactPreset,
  type Secret,
  SecretStore,
  withBlankBody,
  withoutBody,
} from '#core/redact';
import { pagesOfPart } from '#core/report';
import { formatCount, formatPlural } from '#core/wording';
import { inflateWithZlib } from '#server/inflate';
import { diagnoseFile, type Input, readEntries, UsageError, withInput } from '../input';
import { layOutTable, printLines, tell } from '../output';
import { leakLine, NotProven, readPreset } from '../proof';
import { filterRows, readFilter } from '../where';
import { writeAll, writeChecked } from '../write-file';
import { readToEnd } from './save';

interface RedactOptions {
  readonly preset?: string;
  readonly word?: readonly string[];
  readonly where?: string;
  readonly withoutBodies?: readonly string[];
  readonly blank?: readonly string[];
  readonly list?: true;
}

const TOOLS = { inflate: inflateWithZlib };

/** What of a capture leaves, before anything is taken out: its entries one at a time, as often as is needed. */
interface Part {
  readonly end: HarEnd;
  readonly pages: readonly Json[];
  readonly entries: () => Iterable<Json>;
  /** Nothing but redaction makes what leaves differ from the file. */
  readonly isWhole: boolean;
}

/**
 * Writes a capture without its secrets, once it is proven that none of them is left and that nothing else changed; exits with
 * 1, and writes nothing, where the proof fails.
 */
export async function redact(file: string, out: string, options: RedactOptions): Promise<void> {
  const preset = readPreset(options.preset);
  const words = (options.word ?? []).map(readWord);
  const [leftOut, blank] = [readKinds(options.withoutBodies), readKinds(options.blank)];
  const folder = mkdtempSync(join(tmpdir(), 'trazado-redact-'));
  try {
    await withInput(file, async (input) => {
      const part = readPart(input, options.where, leftOut, blank);
      const store = findAll(part, preset, words);
      const redactor = new Redactor(store);
      const target = out === '-' ? join(folder, 'redacted.har') : out;
      let failed = false;
      await writeChecked(target, redactedPieces(part, redactor), (path) => {
        const proof = prove(part, store, path, input, folder);
        failed = !proof.isProven;
        if (failed) throw new NotProven(proof.lines);
        if (out !== '-') writeProof(`${out}.proof.txt`, [...proof.lines, ...summaryOf(redactor)]);
      });
      if (out === '-') writeAll(1, [readFileSync(target, 'utf8')]);
      if (options.list === true && out !== '-') printLines(listOf(redactor, store));
      for (const line of remarksOn(store)) tell(line);
    });
  } catch (error) {
    if (!(error instanceof NotProven)) throw error;
    for (const line of error.lines) tell(line);
    tell(`Nothing was written to ${out}.`);
    process.exitCode = 1;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** A word, or a regular expression between slashes. */
function readWord(text: string): RegExp | string {
  const match = /^\/(.+)\/(i?)$/s.exec(text);
  if (text.trim() === '') throw new UsageError('An empty word would be found everywhere.');
  if (match === null) return text;
  try {
    return new RegExp(match[1] ?? '', `g${match[2]}u`);
  } catch {
    throw new UsageError(`${text} is not a regular expression.`);
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

function readPart(input: Input, where: string | undefined, leftOut: ReadonlySet<Kind>, blank: ReadonlySet<Kind>): Part {
  const end = readToEnd(input);
  const isPart = where !== undefined || leftOut.size > 0 || blank.size > 0;
  if (!isPart) return { end, pages: end.rawPages, isWhole: true, entries: () => valuesOf(input) };
  const filter = readFilter(where ?? '');
  const { rows, overview } = diagnoseFile(input);
  const passing = filterRows(filter, { rows, overview }, input);
  if (passing.size === 0) throw new UsageError('--where lets no exchange through: there is nothing to write.');
  const kinds = new Map<number, Kind>(rows.map(({ index, kind }) => [index, kind]));
  const used = rows.flatMap(({ index, pageId }) => (passing.has(index) ? [pageId] : []));
  function* entries(): Generator<Json> {
    for (const { value, place } of readEntries(input)) {
      if (!passing.has(place as ExchangeIndex)) continue;
      const kind = kinds.get(place);
      if (kind !== undefined && leftOut.has(kind)) yield withoutBody(value);
      else yield kind !== undefined && blank.has(kind) ? withBlankBody(value) : value;
    }
  }
  const pages = passing.size === rows.length ? end.rawPages : pagesOfPart(end.rawPages, overview.pages, new Set(used));
  return { end, pages, isWhole: false, entries };
}

function* valuesOf(input: Input): Generator<Json> {
  for (const { value } of readEntries(input)) yield value;
}

function findAll(part: Part, preset: RedactPreset, words: readonly (RegExp | string)[]): SecretStore {
  const store = new SecretStore({ preset });
  for (const word of words) if (typeof word === 'string') store.add(word, 'own', 'own');
  const patterns = words.filter((word) => word instanceof RegExp);
  const look = (value: Json): void => {
    findInEntry(value, store, TOOLS);
    if (patterns.length === 0) return;
    const text = JSON.stringify(value);
    for (const pattern of patterns) for (const [found] of text.matchAll(pattern)) store.add(found, 'own', 'own');
  };
  for (const entry of part.entries()) look(entry);
  for (const page of part.pages) look(page);
  for (const { value } of membersOf(part.end.outline)) look(value);
  const { wrapper } = part.end.outline;
  for (const text of [wrapper?.before ?? '', wrapper?.after ?? ''])
    findInText(text, { type: 'content', text: { type: 'text' } }, store);
  return store;
}

const membersOf = ({ root, log }: HarOutline) => [...root, ...log].filter((one) => one.type === 'value');

function piecesOf(part: Part, change: (value: Json) => Json, changeText: (text: string) => string): Generator<string> {
  const { outline } = part.end;
  const changeMember = (one: HarOutline['root'][number]): HarOutline['root'][number] =>
    one.type === 'value' ? { ...one, value: change(one.value) } : one;
  function* texts(): Generator<string> {
    for (const entry of part.entries()) yield JSON.stringify(change(entry));
  }
  const { wrapper } = outline;
  return writeHar(
    {
      ...outline,
      root: outline.root.map(changeMember),
      log: outline.log.map(changeMember),
      ...(wrapper === undefined
        ? {}
        : { wrapper: { before: changeText(wrapper.before), after: changeText(wrapper.after) } }),
    },
    { pages: part.pages.map((page) => JSON.stringify(change(page))), entries: texts() },
  );
}

const redactedPieces = (part: Part, redactor: Redactor): Generator<string> =>
  piecesOf(
    part,
    (value) => redactor.entry(value, TOOLS),
    (text) => redactor.text(text),
  );

interface Proof {
  readonly isProven: boolean;
  readonly lines: readonly string[];
}

/** Reads what was written again: no value is left, and its analysis is that of what was to leave. */
function prove(part: Part, store: SecretStore, path: string, input: Input, folder: string): Proof {
  const written: Input = { path, shown: 'the redacted capture', damage: undefined };
  const everywhere = store.secrets.filter(({ isEverywhere }) => isEverywhere);
  const prover = new Prover(everywhere);
  let count = 0;
  const entries = readEntries(written);
  let end: HarEnd;
  for (;;) {
    const next = entries.next();
    if (next.done === true) {
      end = next.value;
      break;
    }
    prover.look(next.value.value, `entries[${next.value.place}]`);
    count++;
  }
  for (const [at, page] of end.rawPages.entries()) prover.look(page, `pages[${at}]`);
  for (const { key, value } of membersOf(end.outline)) prover.look(value, key);
  const { wrapper } = end.outline;
  for (const text of [wrapper?.before ?? '', wrapper?.after ?? '']) prover.text(text, 'what stands around the capture');
  const differences = differencesInAnalysis(analysisOf(recordedOf(part, input, folder)), analysisOf(written));
  const { leaks } = prover;
  return {
    isProven: leaks.length === 0 && differences.length === 0,
    lines: [
      `${leaks.length === 0 ? 'ok  ' : 'FAIL'}  none of ${formatPlural(everywhere.length, 'value')} is left, in no encoding`,
      ...leaks.map(leakLine),
      `ok    what was written loads: ${formatPlural(count, 'exchange')}`,
      `${differences.length === 0 ? 'ok  ' : 'FAIL'}  times, sizes, sources, routes and findings are as they were recorded`,
      ...differences.slice(0, 20).map((line) => `      ${line}`),
    ],
  };
}

/** What is to leave, before anything is taken out. */
function recordedOf(part: Part, input: Input, folder: string): Input {
  if (part.isWhole) return input;
  const path = join(folder, 'part.har');
  writeProof(
    path,
    piecesOf(
      part,
      (value) => value,
      (text) => text,
    ),
    '',
  );
  return { path, shown: 'the part that leaves', damage: undefined };
}

function analysisOf(input: Input): AnalysedCapture {
  const { rows, overview, found } = diagnoseFile(input);
  return { rows, pages: overview.pages, found };
}

function writeProof(path: string, pieces: Iterable<string>, after = '\n'): void {
  const file = openSync(path, 'w');
  try {
    writeAll(file, withEnds(pieces, after));
  } finally {
    closeSync(file);
  }
}

function* withEnds(pieces: Iterable<string>, after: string): Generator<string> {
  for (const piece of pieces) yield piece + after;
}

function summaryOf(redactor: Redactor): string[] {
  const counts = new Map<Secret['kind'], { values: number; places: number }>();
  for (const { secret, count } of redactor.replaced) {
    const own = counts.get(secret.kind) ?? { values: 0, places: 0 };
    counts.set(secret.kind, { values: own.values + 1, places: own.places + count });
  }
  return [
    '',
    'Replaced',
    ...[...counts].map(
      ([kind, { values, places }]) =>
        `  ${KIND_WORDS[kind]}: ${formatPlural(values, 'value')} in ${formatPlural(places, 'place')}`,
    ),
  ];
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

function remarksOn(store: SecretStore): string[] {
  const { inPlaceOnly, left } = store;
  const names = [...new Set(inPlaceOnly.map(({ name }) => name))].slice(0, 8).join(', ');
  const kinds = [...new Set(left.map(({ kind }) => KIND_WORDS[kind]))].join(', ');
  return [
    ...(inPlaceOnly.length === 0
      ? []
      : [
          `${formatPlural(inPlaceOnly.length, 'value')} (${names}) ${inPlaceOnly.length === 1 ? 'is' : 'are'} short or a common word, and replaced only where ${inPlaceOnly.length === 1 ? 'it stands' : 'they stand'} as a secret; add --word to replace one everywhere.`,
        ]),
    ...(left.length === 0
      ? []
      : [`Left as they are: ${kinds} (${formatPlural(left.length, 'value')}); --list names them.`]),
  ];
}
