import type { ExchangeRow } from '#core/analysis';
import { compareSides, comparisonLines } from '#core/compare';
import { member } from '#core/har';
import { type Mark, markKey, marksOfComment } from '#core/marks';
import type { Kind } from '#core/model';
import { findInText, type ProofLine, Prover, Redactor, type SecretStore } from '#core/redact';
import {
  type NotedExchange,
  notedIndexes,
  type ReportDocument,
  type ReportFormat,
  type ReportPart,
  reportToHtml,
  reportToMarkdown,
  type SentInReport,
  writeReport,
} from '#core/report';
import { diagnoseFile, type Input, readEntries, readExchanges } from '../capture-file';
import { foretellFor, loadOf, type ReadLoad } from '../load-of-file';
import type { Analysis } from './analyst-protocol';
import { partOf } from './part';
import { differenceLine, differencesOf, leakLine } from './prove';
import { type Recorded, recordedFile } from './recorded';
import { findSecretsIn, type RedactOrder, TOOLS } from './redact';

/** A capture that a report is of, or that it is compared with. */
export interface ReportSource {
  readonly input: Input;
  /** Its page, counted from 1; the first that has exchanges where it is undefined. */
  readonly page: number | undefined;
  /** How it was asked for, as errors say it, and what it is called. */
  readonly named: string;
  readonly name: string;
  /** Its analysis as it was recorded, where somebody has that already. */
  readonly recorded?: Analysis;
}

export interface ReportOrder {
  readonly of: ReportSource;
  readonly comparedWith: ReportSource | undefined;
  readonly parts: ReadonlySet<ReportPart>;
  readonly format: ReportFormat;
  readonly notes: readonly string[];
  /** What was marked and noted; what the file's own comments say where it is undefined. */
  readonly marks?: readonly Mark[];
  /** What was sent of its drafts. */
  readonly sent?: readonly SentInReport[];
  /** What was sent, as captures: what is secret in them is so in what is said of them. */
  readonly sentThere?: readonly Recorded[];
  /** Noted exchanges of these kinds are told without their bodies. */
  readonly withoutBodies?: ReadonlySet<Kind>;
  /** What is taken out; undefined where secrets stay in it. */
  readonly redact: RedactOrder | undefined;
}

/** A report as text, and its proof; a report that keeps its secrets has none. */
export interface MadeReport {
  readonly text: string;
  /** What its file may be called. */
  readonly name: string;
  readonly proof: readonly ProofLine[];
}

const WRITERS: Record<ReportFormat, (document: ReportDocument) => string> = {
  html: reportToHtml,
  md: reportToMarkdown,
};

/** Writes the report of a page load, without its secrets where that is asked for. @throws UnreadableFile */
export function makeReport(order: ReportOrder, onEntry: () => void = () => undefined): MadeReport {
  const { of, comparedWith, redact, notes } = order;
  if (redact === undefined) {
    const [one, other] = [of, comparedWith].map((source) => source && read(source));
    return {
      text: one === undefined ? '' : textOf(order, of.input, one, other, (text) => text),
      name: of.name,
      proof: [],
    };
  }
  const sources = [of, ...(comparedWith === undefined ? [] : [comparedWith])];
  const store = findSecretsOfFiles(
    sources.map(({ input }) => input),
    redact,
    onEntry,
    order.sentThere,
  );
  const said = (order.sent ?? []).flatMap(({ draft, sentence, lines }) => [draft, sentence, ...lines]);
  const own = [...notes, ...(order.marks ?? []).map((mark) => mark.note), ...sources.map(({ name }) => name), ...said];
  for (const note of own) findInText(note, { type: 'content', text: { type: 'text' } }, store);
  const redactor = new Redactor(store);
  const leaving = sources.map((source) => read({ ...source, input: withoutSecrets(source.input, redactor) }));
  const [one, other] = leaving;
  const input = withoutSecrets(of.input, redactor);
  const text = one === undefined ? '' : textOf(order, input, one, other, (line) => redactor.text(line));
  const everywhere = store.secrets.filter(({ isEverywhere }) => isEverywhere);
  const prover = new Prover(everywhere);
  prover.text(text, 'the report');
  const differences = sources.flatMap(({ input, recorded }, at) => {
    const left = leaving[at];
    return left === undefined ? [] : differencesOf(recorded ?? diagnoseFile(input), left.analysis);
  });
  return {
    text,
    name: redactor.text(of.name),
    proof: [
      leakLine(prover.leaks, everywhere.length, 'is in the report, in any encoding'),
      differenceLine(differences),
    ],
  };
}

function read({ input, page, named, name }: ReportSource): ReadLoad {
  const read = loadOf(input, page, named);
  return { ...read, load: { ...read.load, name } };
}

/** What is secret in files: in their entries, and in whatever encloses these. */
export const findSecretsOfFiles = (
  inputs: readonly Input[],
  order: RedactOrder,
  onEntry: () => void,
  others: readonly Recorded[] = [],
): SecretStore =>
  findSecretsIn(
    [...inputs.map(recordedFile), ...others].map((recorded) =>
      partOf(recorded, { withoutBodies: new Set(), blank: new Set() }),
    ),
    order,
    onEntry,
  );

/** A capture whose entries are read with their secrets replaced. */
export const withoutSecrets = (input: Input, redactor: Redactor): Input => ({
  ...input,
  change: (value) => redactor.entry(value, TOOLS),
});

function textOf(
  { of, comparedWith, parts, format, notes, marks: given, sent = [], withoutBodies }: ReportOrder,
  input: Input,
  one: ReadLoad,
  other: ReadLoad | undefined,
  line: (text: string) => string,
): string {
  const { rows, overview, found, end } = one.analysis;
  const { page } = one.load;
  const marks = (given ?? marksOfFile(of.input)).map((mark) => ({ ...mark, note: line(mark.note) }));
  // Two captures may have one name, and two pages one file.
  const isSame = of.named === comparedWith?.named && of.input.path === comparedWith.input.path;
  const lines = other === undefined ? [] : linesOf(one, other, isSame);
  return WRITERS[format](
    writeReport({
      name: line(one.load.name),
      capture: end.capture,
      rows,
      overview,
      found,
      page: page === undefined ? undefined : { ...page, title: line(page.title) },
      notes: notes.map(line),
      comparison: comparedWith === undefined ? undefined : { with: line(comparedWith.name), lines: lines.map(line) },
      parts,
      marks,
      noted: parts.has('noted') ? readNoted(input, rows, marks, withoutBodies) : [],
      sent: sent.map(({ draft, what, sentence, lines: found }) => ({
        draft: line(draft),
        what,
        sentence: line(sentence),
        lines: found.map(line),
      })),
      inflate: TOOLS.inflate,
    }),
  );
}

/** What was noted on exchanges, as a file's own comments say. */
function marksOfFile(input: Input): Mark[] {
  const marks: Mark[] = [];
  for (const { value, place } of readEntries(input)) marks.push(...marksOfComment(member(value, 'comment'), place));
  return marks;
}

/** The exchanges that were marked or noted, as they leave. */
function readNoted(
  input: Input,
  rows: readonly ExchangeRow[],
  marks: readonly Mark[],
  withoutBodies: ReadonlySet<Kind> = new Set(),
): NotedExchange[] {
  const wanted = notedIndexes(marks);
  if (wanted.size === 0) return [];
  const byIndex = new Map<number, ExchangeRow>(rows.map((row) => [row.index, row]));
  const noted: NotedExchange[] = [];
  for (const exchange of readExchanges(input)) {
    const row = wanted.has(exchange.index) ? byIndex.get(exchange.index) : undefined;
    if (row === undefined) continue;
    const note = marks.find(({ target }) => target === markKey({ type: 'exchange', index: row.index }))?.note ?? '';
    noted.push({ row, exchange, note, isBodyLeftOut: withoutBodies.has(row.kind) });
  }
  return noted;
}

function linesOf(a: ReadLoad, b: ReadLoad, isSame: boolean): readonly string[] {
  const [ownA, ownB] = [foretellFor(a, b), foretellFor(b, a)];
  const compared = compareSides([ownA], [ownB], { map: new Map() });
  return comparisonLines({ a: [ownA], b: [ownB], compared, isSame });
}
