import { FreeNames } from './command';

/** The variables of a script, by the names that their marks have. */
export class ShellVariables {
  readonly all = new Map<string, { value: string; isSecret: boolean }>();
  /** What variables are called now that have had other values before. */
  readonly #names = new Map<string, string>();
  readonly #free = new FreeNames();

  /** Gives a name a value; what stands in a request with the value before keeps it, under the name of then. */
  assign(name: string, value: string): void {
    const current = this.#names.get(name) ?? name;
    const before = this.all.get(current);
    const isOther = before !== undefined && before.value !== value;
    const free = isOther ? this.#free.next(name, (one) => this.all.has(one)) : current;
    this.#names.set(name, free);
    this.all.set(free, { value, isSecret: false });
  }

  /**
   * What stands for a name: its variable's mark, or what its value is of others.
   * @param otherwise the value where the script gives none: a secret of the environment's, unless it is said
   */
  refer(name: string, otherwise?: string): string {
    const current = this.#names.get(name) ?? name;
    const held = this.all.get(current);
    if (held === undefined) this.all.set(current, { value: otherwise ?? '', isSecret: otherwise === undefined });
    return held?.value.includes('‹') ? held.value : `‹${current}›`;
  }

  /** Takes over those of a part of the script that are not known here yet. */
  take(others: Iterable<readonly [name: string, variable: { value: string; isSecret: boolean }]>): void {
    for (const [name, variable] of others) if (!this.all.has(name)) this.all.set(name, variable);
  }

  /** A variable of its own for what is not known here; gives its name. */
  addUnknown(base: string): string {
    const name = this.#free.next(base, (one) => this.all.has(one));
    this.all.set(name, { value: '', isSecret: true });
    return name;
  }
}
