import type { KnownValues } from '../value';

/** A command as its shell took it apart: its words, what is piped into it, and what the shell was asked beside it. */
export interface Command {
  readonly words: readonly string[];
  readonly input: Uint8Array | undefined;
}

/** Gives names that nothing has yet: the name itself, or with the first number behind it that is free. */
export class FreeNames {
  readonly #counts = new Map<string, number>();

  next(base: string, isTaken: (name: string) => boolean): string {
    let count = this.#counts.get(base) ?? 1;
    let name = count === 1 ? base : `${base}${count}`;
    while (isTaken(name)) name = `${base}${++count}`;
    this.#counts.set(base, count);
    return name;
  }
}

/** What a command is read with: the files that its script writes, and the variables that it sets. */
export interface Surroundings {
  readonly files: ReadonlyMap<string, Uint8Array>;
  readonly values: KnownValues;
  /** A variable for what is not known here, marked as a secret; gives its mark. */
  readonly addUnknown: (name: string) => string;
}

/** What a shell's text holds. Variables are those that it sets or asks for; notes say what was passed over. */
export interface ReadScript {
  readonly commands: readonly Command[];
  readonly variables: ReadonlyMap<string, { readonly value: string; readonly isSecret: boolean }>;
  /** Files that the text itself writes, by name. */
  readonly files: ReadonlyMap<string, Uint8Array>;
  readonly notes: readonly string[];
}
