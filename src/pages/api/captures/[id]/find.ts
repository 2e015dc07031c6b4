import type { APIRoute } from 'astro';
import type { FindProgress } from '#core/wire';
import { answer } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { streamLines } from '#server/lines';
import { getTrazado } from '#server/trazado';
import { findQuery, validate } from '#server/validate';

/** What is found, as it is found: one FindProgress on each line, the last one "ended". */
export const GET: APIRoute = ({ params, url }) =>
  answer(() => {
    const capture = getCapture(params);
    const asked = validate(findQuery, Object.fromEntries(url.searchParams));
    const query = { text: asked.text, isRegex: asked.regex, matchesCase: asked.case, wholeWord: asked.word };
    return streamLines<FindProgress>(
      (hear) => getTrazado().finder.find(capture, query, hear),
      ({ type }) => type === 'ended',
    );
  });
