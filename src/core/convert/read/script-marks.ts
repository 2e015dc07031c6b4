import type { Variable } from '../draft';
import { FreeNames } from './command';

/** The variables that stand in what a script builds: one of its own for each expression, and for each value that it has had. */
export class ScriptMarks {
  readonly variables = new Map<string, Variable>();
  readonly #names = new Map<string, string>();
  readonly #free = new FreeNames();

  /**
   * The mark of a variable.
   * @param given what it is called, as far as that can be
   * @param source the expression that it stands for
   * @param value what the script gives it; without one it is a secret, of the environment or of something else
   */
  of(given: string, source: string, value?: string): string {
    const key = `${source}\n${value ?? ''}`;
    const before = this.#names.get(key);
    if (before !== undefined) return `‹${before}›`;
    const plain = given.replace(/^[^A-Za-z]+|[^A-Za-z0-9_]/g, '') || 'value';
    const name = this.#free.next(plain, (one) => this.variables.has(one));
    this.#names.set(key, name);
    this.variables.set(name, { name, value: value ?? '', isSecret: value === undefined });
    return `‹${name}›`;
  }
}
