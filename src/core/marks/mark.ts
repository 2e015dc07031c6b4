/** What a mark is on. */
export type MarkTarget =
  | { readonly type: 'exchange'; readonly index: number }
  /** A finding by its rule and evidence, as findings are dismissed by, too. */
  | { readonly type: 'finding'; readonly key: string }
  /** A leg of a page's route: an exchange, or the gap that begins so long after the page's start. */
  | { readonly type: 'leg'; readonly page: string; readonly leg: string }
  | { readonly type: 'page'; readonly id: string };

/** What somebody said of one thing; a mark that says nothing and marks nothing is none. */
export interface Mark {
  /** The target as `markKey` writes it. */
  readonly target: string;
  readonly isMarked: boolean;
  readonly note: string;
}

/** What changes of a mark, the other staying as it is. */
export type MarkChange = Pick<Mark, 'isMarked'> | Pick<Mark, 'note'>;

/** A target as one text, by which it is kept. */
export function markKey(target: MarkTarget): string {
  switch (target.type) {
    case 'exchange':
      return `exchange ${target.index}`;
    case 'finding':
      return `finding ${target.key}`;
    case 'leg':
      return `leg ${target.leg} ${target.page}`;
    case 'page':
      return `page ${target.id}`;
    default:
      return target satisfies never;
  }
}

const KEY = /^(exchange|finding|leg|page) ([\s\S]+)$/;

/** The target that a text is of; undefined for any other text. */
export function readMarkKey(text: string): MarkTarget | undefined {
  const [, type, rest = ''] = KEY.exec(text) ?? [];
  switch (type) {
    case 'exchange':
      return /^\d{1,9}$/.test(rest) ? { type, index: Number(rest) } : undefined;
    case 'finding':
      return { type, key: rest };
    case 'leg': {
      const [, leg, page] = /^(#\d+|gap@-?[\d.]+) ([\s\S]*)$/.exec(rest) ?? [];
      return leg === undefined || page === undefined ? undefined : { type, page, leg };
    }
    case 'page':
      return { type, id: rest };
    default:
      return undefined;
  }
}

/** How a leg is named in a target: its exchange, or where the gap begins, in ms since the page's start. */
export const legName = (
  leg: { readonly type: 'gap'; readonly startMs: number } | { readonly type: 'exchange'; readonly index: number },
): string => (leg.type === 'gap' ? `gap@${leg.startMs.toFixed(3)}` : `#${leg.index}`);
