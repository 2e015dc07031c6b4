import { atom } from 'nanostores';
import { writeExchangeName } from '../compare/load-name';
import { goTo } from '../state/address';
import { $notice, tell } from '../state/notices';

/** An exchange that was marked, to be compared with the next one. */
interface Marked {
  readonly captureId: string;
  readonly exchange: number;
}

/** A mark outlives the page: the other exchange may be of another capture. */
const KEPT = 'trazado-marked';

export const $marked = atom<Marked | undefined>(readMarked());

function readMarked(): Marked | undefined {
  if (typeof sessionStorage === 'undefined') return undefined;
  const [, captureId, exchange] = /^(.+) (\d+)$/.exec(sessionStorage.getItem(KEPT) ?? '') ?? [];
  return captureId === undefined ? undefined : { captureId, exchange: Number(exchange) };
}

function setMarked(marked: Marked | undefined): void {
  $marked.set(marked);
  if (marked === undefined) sessionStorage.removeItem(KEPT);
  else sessionStorage.setItem(KEPT, `${marked.captureId} ${marked.exchange}`);
}

/**
 * Marks an exchange. With another one marked, opens this one compared with it; with itself marked, takes the mark back. Two of
 * different captures, or of trials, are compared on a page of their own.
 */
export function compareMark(captureId: string, exchange: number): void {
  const marked = $marked.get();
  if (marked === undefined) {
    setMarked({ captureId, exchange });
    tell(`#${exchange} is marked.`, {
      detail: 'Go to another exchange, of this capture or another, and press m there to compare the two.',
    });
    return;
  }
  setMarked(undefined);
  $notice.set(undefined);
  const isSameCapture = marked.captureId === captureId;
  if (isSameCapture && marked.exchange === exchange) tell(`#${exchange} is no longer marked.`);
  else if (isSameCapture && location.pathname.startsWith(`/c/${captureId}/`))
    goTo({ exchange, lane: undefined, isOpen: true, hit: undefined, against: marked.exchange });
  else {
    const [one, other] = [writeExchangeName(marked.captureId, marked.exchange), writeExchangeName(captureId, exchange)];
    location.assign(`/compare?${new URLSearchParams({ one, other })}`);
  }
}

/** What a button that compares says: with what, once another one is marked. */
export function compareWords(marked: Marked | undefined, captureId: string, exchange: number): string {
  if (marked === undefined || (marked.captureId === captureId && marked.exchange === exchange)) return 'Compare with';
  return marked.captureId === captureId
    ? `Compare with #${marked.exchange}`
    : `Compare with #${marked.exchange} of the other capture`;
}
