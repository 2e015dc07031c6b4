import { type Draft, fillIn } from '#core/convert';
import { splitUrl } from '#core/http';
import type { KeptDraft } from '#core/sheet';
import { nextHop } from '#core/trial';
import { newDraft } from './use-drafts';

/** A redirect that a trial's response was. */
export interface Hop {
  readonly status: number;
  /** Where it leads. */
  readonly url: string;
}

/** The draft of what follows a redirect, sent the same way; to another host without what stood in for the one before. */
export function hopOf({ draft, way }: KeptDraft, { status, url }: Hop): KeptDraft {
  const next = nextHop(draft, status, url);
  const { toHost, ...others } = way ?? {};
  const isSameHost = hostOf(next) === hostOf(draft);
  return {
    ...newDraft(`${next.method} ${url.replace(/^[a-z]+:\/\//i, '').slice(0, 60)}`, next, undefined),
    way: isSameHost && toHost !== undefined ? { ...others, toHost } : others,
  };
}

const hostOf = (draft: Draft): string | undefined => splitUrl(fillIn(draft).url)?.host;
