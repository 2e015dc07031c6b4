import { findHeader, type NameValue } from '../../model';
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

/** Adds a header that a client sends by itself; one that was given, or nothing to send, leaves the headers as they are. */
export function addLacking(headers: NameValue[], name: string, value: string | undefined): void {
  if (value !== undefined && findHeader(headers, name) === undefined) headers.push({ name, value });
}
