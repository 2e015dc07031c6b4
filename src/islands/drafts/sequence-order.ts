/** Which drafts of a capture are sent in order, and which of them not for now. */
export interface SequenceOrder {
  /** Ids of drafts in the order in which they are sent. */
  readonly order: readonly string[];
  readonly leftOut: readonly string[];
}

const keyOf = (captureId: string): string => `sequence of ${captureId}`;
const NONE: SequenceOrder = { order: [], leftOut: [] };

/** The order as it was last set in this browser. */
export function readOrder(captureId: string): SequenceOrder {
  try {
    const read = JSON.parse(localStorage.getItem(keyOf(captureId)) ?? 'null') as SequenceOrder | null;
    return read === null || !Array.isArray(read.order) || !Array.isArray(read.leftOut) ? NONE : read;
  } catch {
    return NONE;
  }
}

export function writeOrder(captureId: string, order: SequenceOrder): void {
  try {
    localStorage.setItem(keyOf(captureId), JSON.stringify(order));
  } catch {
    // Full: the order lasts as long as the view.
  }
}

/** Drafts in a set order; those that it does not name behind the others, in the order of the capture. */
export function inOrder<T extends { readonly id: string; readonly exchange: number | undefined }>(
  all: readonly T[],
  { order }: SequenceOrder,
): T[] {
  const captured = [...all].sort((one, other) => (one.exchange ?? Infinity) - (other.exchange ?? Infinity) || 0);
  const place = (one: T): number => {
    const at = order.indexOf(one.id);
    return at === -1 ? order.length + captured.indexOf(one) : at;
  };
  return [...all].sort((one, other) => place(one) - place(other));
}
