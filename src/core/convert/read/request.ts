import type { NameValue } from '../../model';
import type { DraftPayload } from '../draft';

/** A request that was read from a text, and what of the text has no place in it. */
export interface ReadRequest {
  readonly method: string;
  readonly url: string;
  readonly headers: readonly NameValue[];
  readonly payload: DraftPayload;
  readonly wantsCompressed: boolean;
  readonly notes: readonly string[];
}
