import { createContext, Script } from 'node:vm';

/** A regular expression ran for longer than it may. */
export class TookTooLong extends Error {
  constructor(limitMs: number) {
    super(`it ran for more than ${limitMs / 1000} s`);
    this.name = 'TookTooLong';
  }
}

const SCRIPT = new Script('run()');

/** Runs a computation that is broken off when it takes too long, even in the middle of a regular expression. */
export function withinTime<T>(limitMs: number, run: () => T): T {
  const result: { value?: T } = {};
  const context = createContext({
    run: () => {
      result.value = run();
    },
  });
  try {
    SCRIPT.runInContext(context, { timeout: limitMs });
  } catch (error) {
    if ((error as { code?: unknown }).code === 'ERR_SCRIPT_EXECUTION_TIMEOUT') throw new TookTooLong(limitMs);
    throw error;
  }
  return result.value as T;
}
