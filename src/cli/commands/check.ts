import { RULE_IDS } from '#core/diagnose';
import {
  type CheckedCapture,
  checkAgainst,
  checkBudgets,
  checkedLines,
  checkedToJunit,
  isRule,
  readAllowance,
  readBudget,
} from '#core/report';
import { diagnoseFile } from '#server/capture-file';
import { UsageError, withInput } from '../input';
import { print, printJson, printLines } from '../output';

interface CheckOptions {
  readonly max?: readonly string[];
  readonly baseline?: string;
  readonly allow?: readonly string[];
  /** Of --no-finding: true where it was not given. */
  readonly finding?: readonly string[] | true;
  readonly json?: true;
  readonly junit?: true;
}

/** Holds a capture against budgets, and against a baseline; exits with 1 where something is over. */
export async function check(file: string, options: CheckOptions): Promise<void> {
  const budgets = (options.max ?? []).map((text) => read(readBudget(text)));
  const allowances = (options.allow ?? []).map((text) => read(readAllowance(text)));
  const rules = (Array.isArray(options.finding) ? (options.finding as readonly string[]) : []).map((text) => {
    if (isRule(text)) return text;
    throw new UsageError(`Unknown rule "${text}"; use one of ${RULE_IDS.join(', ')}.`);
  });
  const { baseline } = options;
  if (baseline !== undefined && allowances.length === 0)
    throw new UsageError(
      'A baseline alone checks nothing: say what may change with --allow, e.g. --allow loaded=+10%.',
    );
  if (baseline === undefined && allowances.length > 0)
    throw new UsageError('--allow needs something to be held against: give --baseline OTHER.');
  if (budgets.length + rules.length + allowances.length === 0) {
    throw new UsageError(
      'Nothing to check: give --max NAME=VALUE, --no-finding RULE, or --baseline OTHER with --allow.',
    );
  }
  const capture = await readCapture(file);
  const checked = [
    ...checkBudgets(capture, budgets, rules),
    ...(baseline === undefined ? [] : checkAgainst(capture, await readCapture(baseline), allowances)),
  ];
  const over = checked.filter(({ isOver }) => isOver);
  if (options.junit === true) print(checkedToJunit(checked, file));
  else if (options.json === true) printJson({ passed: over.length === 0, checked });
  else printLines(checkedLines(checked, capture.rows));
  if (over.length > 0) process.exitCode = 1;
}

function read<T>(
  reading: { readonly ok: true; readonly budget: T } | { readonly ok: false; readonly sentence: string },
): T {
  if (reading.ok) return reading.budget;
  throw new UsageError(reading.sentence);
}

const readCapture = (file: string): Promise<CheckedCapture> =>
  withInput(file, (input) => {
    const { rows, overview, found } = diagnoseFile(input);
    return { rows, pages: overview.pages, found };
  });
