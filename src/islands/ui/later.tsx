import { type ComponentType, lazy, useEffect, useState } from 'react';

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

/** A script that is not drawn, fetched when it is asked for or ahead of that, as parts are. */
export function laterScript<Script>(load: () => Promise<Script>): () => Promise<Script> {
  parts.add(load);
  return load;
}

/** A script once it is there, fetched when it is first wanted; one that cannot be had is asked for when it is wanted again. */
export function useScript<Script>(load: () => Promise<Script>, isWanted: boolean): Script | undefined {
  const [script, setScript] = useState<{ readonly there: Script }>();
  const isMissing = isWanted && script === undefined;
  useEffect(() => {
    if (!isMissing) return;
    let isCurrent = true;
    load().then(
      (there) => isCurrent && setScript({ there }),
      () => undefined,
    );
    return () => {
      isCurrent = false;
    };
  }, [isMissing, load]);
  return script?.there;
}

/** Fetches what the page may need next once what it shows stands, so that nothing asked for waits. */
export function useFetchedAhead(): void {
  useEffect(() => {
    // What cannot be fetched is told of where it is asked for.
    const timer = setTimeout(() => Promise.all([...parts].map((fetch) => fetch())).catch(() => undefined), REST_MS);
    return () => clearTimeout(timer);
  }, []);
}
const REST_MS = 1500;
