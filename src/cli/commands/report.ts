import { basename, extname } from 'node:path';
import { compareSides, comparisonLines } from '#core/compare';
import { differencesInAnalysis, findInText, Prover, Redactor, type RedactPreset } from '#core/redact';
import {
  REPORT_FORMATS,
  REPORT_PARTS,
  type ReportDocument,
  type ReportFormat,
  type ReportPart,
  reportToHtml,
  reportToMarkdown,
  writeReport,
} from '#core/report';
import { formatPlural } from '#core/wording';
import { diagnoseFile, type Input, UsageError, withInput } from '../input';
import { choosePage, foretellFor, loadOf, splitNamed } from '../loads';
import { findSecretsOf, withoutSecrets } from '../masked';
import { tell } from '../output';
import { leakLine, NotProven, readPreset } from '../proof';
import { writeWhole } from '../write-file';

interface ReportOptions {
  readonly out: string;
  readonly compare?: string;
  readonly parts?: string;
  readonly note?: readonly string[];
  readonly preset?: string;
  readonly secrets?: true;
}

const WRITERS: Record<ReportFormat, (document: ReportDocument) => string> = {
  html: reportToHtml,
  md: reportToMarkdown,
};

/** A capture that a report is of, or that it is compared with. */
interface Named {
  readonly input: Input;
  readonly number: number | undefined;
  readonly named: string;
}

/**
 * Writes the report of a page load as one file. Unless they are asked for secrets are taken out first, and nothing is written,
 * with exit status 1, where one is left in it or the numbers are not those of what was recorded.
 */
export async function report(file: string, options: ReportOptions): Promise<void> {
  const format = readFormat(options.out);
  const parts = readParts(options.parts);
  const preset = options.secrets === true ? undefined : readPreset(options.preset);
  const { path, number } = splitNamed(file);
  const other = options.compare === undefined ? undefined : splitNamed(options.compare);
  try {
    await withInput(path, async (input) => {
      const one: Named = { input, number, named: file };
      const write = async (second: Named | undefined): Promise<void> => {
        const { text, proof } =
          preset === undefined
            ? { text: textOf(one, second, options, parts, format), proof: [] }
            : proven(one, second, options, parts, format, preset);
        await writeWhole(options.out, [text]);
        if (proof.length > 0) await writeWhole(`${options.out}.proof.txt`, [`${proof.join('\n')}\n`]);
      };
      if (other === undefined || options.compare === undefined) await write(undefined);
      else {
        const named = options.compare;
        await withInput(other.path, (second) => write({ input: second, number: other.number, named }));
      }
    });
    tell(`Report written to ${options.out}${preset === undefined ? ', secrets left in it' : ''}.`);
  } catch (error) {
    if (!(error instanceof NotProven)) throw error;
    for (const line of error.lines) tell(line);
    tell(`Nothing was written to ${options.out}.`);
    process.exitCode = 1;
  }
}

function readFormat(out: string): ReportFormat {
  const format = REPORT_FORMATS.find((one) => extname(out).toLowerCase() === `.${one}`);
  if (format !== undefined) return format;
  throw new UsageError(
    `"${out}" is no report's name: it ends in ${REPORT_FORMATS.map((one) => `.${one}`).join(' or ')}.`,
  );
}

function readParts(text: string | undefined): ReadonlySet<ReportPart> {
  if (text === undefined) return new Set(REPORT_PARTS);
  return new Set(
    text.split(',').map((name) => {
      const part = REPORT_PARTS.find((one) => one === name.trim());
      if (part !== undefined) return part;
      throw new UsageError(`"${name}" is no part of a report; use some of ${REPORT_PARTS.join(', ')}.`);
    }),
  );
}

/** The report as it is written, secrets and all. */
function textOf(
  one: Named,
  other: Named | undefined,
  { note = [] }: ReportOptions,
  parts: ReadonlySet<ReportPart>,
  format: ReportFormat,
  line: (text: string) => string = (text) => text,
): string {
  const { rows, overview, found, end } = diagnoseFile(one.input);
  const page = choosePage(overview.pages, one.number, one.named);
  return WRITERS[format](
    writeReport({
      name: line(basename(splitNamed(one.named).path)),
      capture: end.capture,
      rows,
      overview,
      found,
      page: page === undefined ? undefined : { ...page, title: line(page.title) },
      notes: note.map(line),
      comparison:
        other === undefined ? undefined : { with: line(basename(other.named)), lines: linesOf(one, other).map(line) },
      parts,
    }),
  );
}

function linesOf(one: Named, other: Named): readonly string[] {
  const [a, b] = [one, other].map(({ input, number, named }) => loadOf(input, number, named));
  if (a === undefined || b === undefined) return [];
  const [ownA, ownB] = [foretellFor(a, b), foretellFor(b, a)];
  const compared = compareSides([ownA], [ownB], { map: new Map() });
  return comparisonLines({ a: [ownA], b: [ownB], compared, isSame: one.named === other.named });
}

/** The report without secrets, and its proof. @throws NotProven */
function proven(
  one: Named,
  other: Named | undefined,
  options: ReportOptions,
  parts: ReadonlySet<ReportPart>,
  format: ReportFormat,
  preset: RedactPreset,
): { readonly text: string; readonly proof: readonly string[] } {
  const recorded = [one, ...(other === undefined ? [] : [other])];
  const store = findSecretsOf(
    recorded.map(({ input }) => input),
    preset,
  );
  for (const note of options.note ?? []) findInText(note, { type: 'content', text: { type: 'text' } }, store);
  const redactor = new Redactor(store);
  const without = (named: Named): Named => ({ ...named, input: withoutSecrets(named.input, redactor) });
  const line = (text: string): string => redactor.text(text);
  const text = textOf(without(one), other && without(other), options, parts, format, line);
  const everywhere = store.secrets.filter(({ isEverywhere }) => isEverywhere);
  const prover = new Prover(everywhere);
  prover.text(text, 'the report');
  const differences = recorded.flatMap((named) =>
    differencesInAnalysis(analysisOf(named.input), analysisOf(without(named).input)),
  );
  const { leaks } = prover;
  const proof = [
    `${leaks.length === 0 ? 'ok  ' : 'FAIL'}  none of ${formatPlural(everywhere.length, 'value')} is in the report, in no encoding`,
    ...leaks.map(leakLine),
    `${differences.length === 0 ? 'ok  ' : 'FAIL'}  times, sizes, sources, routes and findings are as they were recorded`,
    ...differences.slice(0, 20).map((words) => `      ${words}`),
  ];
  if (leaks.length > 0 || differences.length > 0) throw new NotProven(proof);
  return { text, proof };
}

function analysisOf(input: Input) {
  const { rows, overview, found } = diagnoseFile(input);
  return { rows, pages: overview.pages, found };
}
