import type { CaptureCard } from '#core/wire';

/** A load as the address has it: a capture's id, and of one with several pages which of them, counted from 1. */
export interface LoadName {
  readonly captureId: string;
  /** Absent for the first page, or the whole capture where there is none. */
  readonly page: number | undefined;
}

/** "0b6f…" or "0b6f…~2". */
export function readLoadName(text: string): LoadName {
  const match = /^(.*)~(\d{1,6})$/.exec(text);
  return match === null ? { captureId: text, page: undefined } : { captureId: match[1] ?? '', page: Number(match[2]) };
}

export const writeLoadName = ({ captureId, page }: LoadName): string =>
  page === undefined || page === 1 ? captureId : `${captureId}~${page}`;

/** What a load is called on the screen. */
export function callLoad({ name, overview }: CaptureCard, page: number | undefined): string {
  const { pages } = overview;
  if (pages.length < 2) return name;
  const number = page ?? 1;
  return `${name}, page ${number}`;
}

/** Every load of a capture: each page, or all of it where it has none. */
export const loadsOf = ({ id, overview }: CaptureCard): LoadName[] =>
  overview.pages.length < 2
    ? [{ captureId: id, page: undefined }]
    : overview.pages.map((_, at) => ({ captureId: id, page: at + 1 }));

/** An exchange as the address has it: "0b6f….12". */
export function readExchangeName(
  text: string | undefined,
): { readonly capture: string; readonly place: number } | undefined {
  const match = /^(.+)\.(\d{1,9})$/.exec(text ?? '');
  return match === null ? undefined : { capture: match[1] ?? '', place: Number(match[2]) };
}

export const writeExchangeName = (capture: string, place: number): string => `${capture}.${place}`;

/** The address of a comparison of loads, as they are written. */
export function compareAddress(a: readonly string[], b: readonly string[]): string {
  const query = new URLSearchParams();
  for (const name of a) query.append('a', name);
  for (const name of b) query.append('b', name);
  return query.size === 0 ? '/compare' : `/compare?${query}`;
}
