import { RULE_IDS } from '#core/diagnose';
import { checkBudgets, checkedLines, checkedToJunit, isRule, readBudget } from '#core/report';
import { diagnoseFile, UsageError, withInput } from '../input';
import { print, printJson, printLines } from '../output';

interface CheckOptions {
  readonly max?: readonly string[];
  /** Of --no-finding: true where it was not given. */
  readonly finding?: readonly string[] | true;
  readonly json?: true;
  readonly junit?: true;
}

/** Holds a capture against budgets; exits with 1 where something is over. */
export async function check(file: string, options: CheckOptions): Promise<void> {
  const budgets = (options.max ?? []).map((text) => {
    const reading = readBudget(text);
    if (reading.ok) return reading.budget;
    throw new UsageError(reading.sentence);
  });
  const rules = (Array.isArray(options.finding) ? (options.finding as readonly string[]) : []).map((text) => {
    if (isRule(text)) return text;
    throw new UsageError(`Unknown rule "${text}"; use one of ${RULE_IDS.join(', ')}.`);
  });
  if (budgets.length === 0 && rules.length === 0) {
    throw new UsageError('Nothing to check: give --max NAME=VALUE or --no-finding RULE.');
  }
  const { checked, rows } = await withInput(file, (input) => {
    const diagnosis = diagnoseFile(input);
    const { overview, found } = diagnosis;
    return {
      rows: diagnosis.rows,
      checked: checkBudgets(diagnosis.rows, overview.pages, found.findings, budgets, rules),
    };
  });
  const over = checked.filter(({ isOver }) => isOver);
  if (options.junit === true) print(checkedToJunit(checked, file));
  else if (options.json === true) printJson({ passed: over.length === 0, checked });
  else printLines(checkedLines(checked, rows));
  if (over.length > 0) process.exitCode = 1;
}
