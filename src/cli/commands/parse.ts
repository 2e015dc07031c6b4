import { readFileSync } from 'node:fs';
import {
  type Draft,
  fillIn,
  guessSource,
  payloadBytes,
  type ReadBack,
  readBack,
  SOURCES,
  type SourceId,
} from '#core/convert';
import { UsageError } from '../input';
import { printJson } from '../output';

/** Reads requests from standard input and prints what they are: one as an object, several as a list. */
export function parse(options: { readonly from?: string }): void {
  const text = readFileSync(0, 'utf8');
  const read = readBack(text, sourceOf(options.from, text));
  if (read.drafts.length === 0) {
    throw new UsageError(`No request found in the input.${read.notes.length > 0 ? ` ${read.notes.join(' ')}` : ''}`);
  }
  const told = read.drafts.map((draft) => tellOf(draft, read));
  printJson(told.length === 1 ? told[0] : told);
}

function sourceOf(given: string | undefined, text: string): SourceId {
  const source = given === undefined ? guessSource(text) : SOURCES.find((known) => known === given);
  if (source !== undefined) return source;
  throw new UsageError(
    given === undefined
      ? `Cannot detect the input format; specify it with --from ${SOURCES.join(', ')}.`
      : `"${given}" is not an input format; use one of ${SOURCES.join(', ')}.`,
  );
}

function tellOf(draft: Draft, { notes }: ReadBack) {
  // Secrets are read from the environment where the command runs: what they are there is not known here.
  const unknown = draft.variables.filter(({ isSecret, value }) => isSecret && value === '');
  const known = draft.variables.filter((variable) => !unknown.includes(variable));
  const { method, url, headers, payload } = fillIn({ ...draft, variables: known });
  const bytes = payloadBytes(payload);
  const kept = headers.filter((header) => header.kept).map(({ name, value }) => ({ name, value }));
  const isForm = payload.type === 'parts';
  const others = isForm ? kept.filter(({ name }) => name.toLowerCase() !== 'content-type') : kept;
  const type = isForm ? [{ name: 'Content-Type', value: `multipart/form-data; boundary=${payload.boundary}` }] : [];
  const files = payload.type === 'file' ? [`The payload is read from the file "${payload.path}".`] : [];
  return {
    method,
    url,
    headers: [...others, ...type],
    ...(bytes === undefined ? {} : { body: bodyOf(bytes) }),
    notes: [
      ...draft.notes,
      ...notes,
      ...files,
      ...unknown.map(({ name }) => `Nothing here gives ${name} a value: it is written as ‹${name}›.`),
    ],
  };
}

/** A payload as text where it is text, else as base64. */
function bodyOf(bytes: Uint8Array): { readonly text: string } | { readonly base64: string } {
  try {
    return { text: new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes) };
  } catch {
    return { base64: Buffer.from(bytes).toString('base64') };
  }
}
