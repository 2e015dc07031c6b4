/**
 * How a body names what it has loaded, where that bears on what the load waits for (WHATWG HTML 4.6.7, 4.12.1, 8.2.6),
 * that which holds it up most first: by a tag that the parser waits for, an import of a module, a script's `import()`,
 * a script that is async; and what nothing waits for.
 */
export const MANNERS = ['parsed', 'imported', 'on-demand', 'async', 'preload', 'lazy', 'prefetch', 'icon'] as const;
export type Manner = (typeof MANNERS)[number];

/** What an element demands of the bytes that it loads (Subresource Integrity). */
export interface Demand {
  /** The digests of which they must have one. */
  readonly integrity: string;
  /** They are asked for by CORS: of those of another origin nothing else could be compared. */
  readonly isByCors: boolean;
}

/** An address as a body names it, before it is known what it leads to. */
export type Named =
  /** An address that the browser resolves against the page or the style it stands in. */
  | {
      readonly type: 'link';
      readonly url: string;
      readonly base: 'page' | 'self';
      readonly manner?: Manner | undefined;
      readonly demand?: Demand | undefined;
    }
  /** A text in quotes, which may be an address, a path or a part of one. */
  | { readonly type: 'quoted'; readonly text: string }
  /** A text put together of these pieces, with unknown ones between them. */
  | { readonly type: 'pattern'; readonly pieces: readonly string[] };

export type Tell = (named: Named) => void;

/** No address that anybody writes is longer. */
const LONGEST_CHARS = 2000;

/** True for a text that could be an address or lead to one: no spaces, and a slash or a dot in it. */
export const couldBeAddress = (text: string): boolean =>
  text.length >= 3 && text.length <= LONGEST_CHARS && /[./]/.test(text) && !/[\s<>{}]/.test(text);
