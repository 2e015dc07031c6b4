/** A command as its shell took it apart: its words, what is piped into it, and what the shell was asked beside it. */
export interface Command {
  readonly words: readonly string[];
  readonly input: Uint8Array | undefined;
}

/** What a shell's text holds. Variables are those that it sets or asks for; notes say what was passed over. */
export interface ReadScript {
  readonly commands: readonly Command[];
  readonly variables: ReadonlyMap<string, { readonly value: string; readonly isSecret: boolean }>;
  /** Files that the text itself writes, by name. */
  readonly files: ReadonlyMap<string, Uint8Array>;
  readonly notes: readonly string[];
}
