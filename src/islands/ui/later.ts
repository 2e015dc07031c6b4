import { type ComponentType, lazy } from 'react';

type Loader<Props> = () => Promise<{ readonly default: ComponentType<Props> }>;

const loaders = new Set<() => Promise<unknown>>();

/** A part whose script is fetched when it is first drawn, or ahead of that, once the page stands: the first view needs none of it. */
export function later<Props>(load: Loader<Props>): ReturnType<typeof lazy<ComponentType<Props>>> {
  loaders.add(load);
  return lazy(load);
}

/** Fetches what the page that stands may need next, so that nothing asked for waits. */
export async function fetchAhead(): Promise<void> {
  // What cannot be fetched is told of where it is asked for.
  await Promise.all([...loaders].map((load) => load())).catch(() => undefined);
}
