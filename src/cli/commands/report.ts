import { basename, extname } from 'node:path';
import { isProven, KINDS_OF_PRESET, type ProofLine, proofText } from '#core/redact';
import { REPORT_FORMATS, REPORT_PARTS, type ReportFormat, type ReportPart } from '#core/report';
import { makeReport, type ReportSource } from '#server/hand-off/report';
import { UsageError, withInput } from '../input';
import { splitNamed } from '../loads';
import { tell } from '../output';
import { NotProven, readPreset } from '../proof';
import { writeWhole } from '../write-file';

interface ReportOptions {
  readonly out: string;
  readonly compare?: string;
  readonly parts?: string;
  readonly note?: readonly string[];
  readonly preset?: string;
  readonly secrets?: true;
}

/**
 * Writes the report of a page load as one file. Unless they are asked for secrets are taken out first, and nothing is written,
 * with exit status 1, where one is left in it or the numbers are not those of what was recorded.
 */
export async function report(file: string, options: ReportOptions): Promise<void> {
  const format = readFormat(options.out);
  const parts = readParts(options.parts);
  if (options.parts !== undefined && parts.has('comparison') !== (options.compare !== undefined))
    throw new UsageError(
      options.compare === undefined
        ? 'The part comparison needs --compare OTHER.'
        : 'The comparison is left out by --parts: add comparison to them, or leave --compare out.',
    );
  const preset = options.secrets === true ? undefined : readPreset(options.preset);
  const redact = preset === undefined ? undefined : { kinds: KINDS_OF_PRESET[preset], words: [] };
  const write = async (of: ReportSource, comparedWith: ReportSource | undefined): Promise<void> => {
    const made = makeReport({ of, comparedWith, parts, format, notes: options.note ?? [], redact });
    if (!isProven(made.proof)) throw new NotProven(proofText(made.proof));
    await writeWhole(options.out, [made.text]);
    if (made.proof.length > 0) await writeWhole(`${options.out}.proof.txt`, proofLines(made.proof));
  };
  try {
    await withSource(file, async (of) => {
      if (options.compare === undefined) await write(of, undefined);
      else await withSource(options.compare, (other) => write(of, other));
    });
    tell(`Report written to ${options.out}${preset === undefined ? ', secrets left in it' : ''}.`);
  } catch (error) {
    if (!(error instanceof NotProven)) throw error;
    for (const line of error.lines) tell(line);
    tell(`Nothing was written to ${options.out}.`);
    process.exitCode = 1;
  }
}

function withSource(named: string, run: (source: ReportSource) => Promise<void>): Promise<void> {
  const { path, number } = splitNamed(named);
  return withInput(path, (input) => run({ input, page: number, named, name: basename(path) }));
}

const proofLines = (proof: readonly ProofLine[]): string[] => proofText(proof).map((line) => `${line}\n`);

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
