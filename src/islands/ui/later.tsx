import { type ComponentType, lazy, useState } from 'react';

/** A part whose script comes later; `fetch` has it come now. */
export interface Later<Props> {
  (props: Props): React.ReactNode;
  readonly fetch: () => Promise<unknown>;
}

const parts = new Set<() => Promise<unknown>>();

/**
 * A part whose script is fetched when it is first drawn, or ahead of that, once the page stands: the first view needs none
 * of it. Suspends while it is fetched; one that is there is drawn at once.
 */
export function later<Props extends object>(
  load: () => Promise<{ readonly default: ComponentType<Props> }>,
): Later<Props> {
  let there: ComponentType<Props> | undefined;
  const fetch = async () => {
    const part = await load();
    there = part.default;
    return part;
  };
  const Awaited = lazy(fetch) as unknown as ComponentType<Props>;
  // biome-ignore lint/correctness/noComponentHookFactories: made once for each part, where its module begins.
  function Part(props: Props) {
    // Chosen once: another component in its place would begin anew.
    const [Drawn] = useState(() => there ?? Awaited);
    return <Drawn {...props} />;
  }
  parts.add(fetch);
  return Object.assign(Part, { fetch });
}

/** Fetches what the page that stands may need next, so that nothing asked for waits. */
export async function fetchAhead(): Promise<void> {
  // What cannot be fetched is told of where it is asked for.
  await Promise.all([...parts].map((fetch) => fetch())).catch(() => undefined);
}
