import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readCorrections, writeCorrection } from '#server/db/corrections';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { comparedCaptures, correctionOrder, validate } from '#server/validate';

/** The captures that an address names, both on the shelf. */
function readCaptures(url: URL): { readonly a: string; readonly b: string } {
  const { a, b } = validate(comparedCaptures, Object.fromEntries(url.searchParams));
  return { a: getCapture({ id: a }).id, b: getCapture({ id: b }).id };
}

export const GET: APIRoute = ({ request, url }) =>
  answer(() => json(request, readCorrections(getTrazado().connection, readCaptures(url))));

/** Says that two exchanges are the same, or are not, or takes that back. */
export const PATCH: APIRoute = ({ request, url }) =>
  answer(async () => {
    const captures = readCaptures(url);
    const correction = await readJson(request, correctionOrder);
    await getTrazado().write((connection) => writeCorrection(connection, captures, correction));
    return json(request, readCorrections(getTrazado().connection, captures));
  });
