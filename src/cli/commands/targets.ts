import { TARGETS } from '#core/convert';
import { layOutTable, printJson, printLines } from '../output';

export function targets(options: { json?: true }): void {
  const known = TARGETS.map(({ id, label, language, extension }) => ({ id, label, language, extension }));
  if (options.json === true) printJson(known);
  else
    printLines(
      layOutTable(
        known.map(({ id, label, language, extension }) => [id, label, language, `.${extension}`]),
        new Set(),
      ),
    );
}
