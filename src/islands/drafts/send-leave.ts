import type { SendLeave } from '#core/wire';

/** What was allowed with a press: for its draft alone, as long as the page is open. */
const LEAVE = new Map<string, SendLeave>();

export const leaveOf = (draft: string): SendLeave => LEAVE.get(draft) ?? {};

export function allow(draft: string, more: SendLeave): void {
  LEAVE.set(draft, { ...leaveOf(draft), ...more });
}
