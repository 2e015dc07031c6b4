import type { KeptDraft } from '#core/sheet';
import type { SendLeave } from '#core/wire';

/** What was allowed with a press: for its draft and the place that it went to alone, as long as the page is open. */
const LEAVE = new Map<string, SendLeave>();

/** Another host on the sheet, or another place to send to, is asked about anew. */
const keyOf = ({ id, draft, way }: KeptDraft): string =>
  `${id} ${/^[^/?#]*(?:\/\/[^/?#]*)?/.exec(draft.url)?.[0] ?? ''} ${way?.toHost ?? ''}`;

export const leaveOf = (kept: KeptDraft): SendLeave => LEAVE.get(keyOf(kept)) ?? {};

export function allow(kept: KeptDraft, more: SendLeave): void {
  LEAVE.set(keyOf(kept), { ...leaveOf(kept), ...more });
}
