// The app and the command line that serves it are bundled apart, each with modules of its own: what they have in common is
// their process.

const CLOSING = Symbol.for('trazado.closing');
type WithClosing = typeof globalThis & { [CLOSING]?: () => Promise<void> };

/** Nobody waits longer for what ends with the server. */
const LIMIT_MS = 5000;

/** Has something done before the process ends, where it ends in an orderly way. */
export function beforeEnding(close: () => Promise<void>): void {
  (globalThis as WithClosing)[CLOSING] = close;
}

/** Does what is to be done before the process ends. */
export async function endInOrder(): Promise<void> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<void>((resolve) => {
    timer = setTimeout(resolve, LIMIT_MS);
  });
  // Whoever ends the server wants it ended, whatever fails meanwhile.
  const closed = (globalThis as WithClosing)[CLOSING]?.().catch(() => undefined);
  await Promise.race([closed, late]);
  clearTimeout(timer);
}
