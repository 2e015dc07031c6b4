import type { NameValue } from '#core/model';
import type { NoResponse } from './failures';

/** A response as it came. */
export interface CameBack {
  readonly status: number;
  readonly statusText: string;
  readonly protocol: string;
  /** As they came: order, case and repeats. */
  readonly headers: readonly NameValue[];
  /** Its bytes as they were sent, coding and all. */
  readonly body: Uint8Array;
  /** There was more than is kept, or the transfer broke, which `broke` says. */
  readonly isCut: boolean;
  readonly broke: NoResponse | undefined;
  /** Bytes came behind the response, as its headers or its status say where it ends; they are not kept. */
  readonly hasMore: boolean;
}

/** The head of a response. */
export type Head = Omit<CameBack, 'body' | 'isCut' | 'broke' | 'hasMore'>;

/** What is heard of a request on its way, by whichever protocol. */
export interface Heard {
  readonly onSent: () => void;
  readonly onHead: (head: Head) => void;
  readonly onData: (chunk: Buffer) => void;
  readonly onEnd: () => void;
  /** Bytes come behind the end. */
  readonly onMore: () => void;
  readonly onError: (error: Error) => void;
  /** Takes what is to be closed with the rest. */
  readonly onClose: (close: () => void) => void;
}
