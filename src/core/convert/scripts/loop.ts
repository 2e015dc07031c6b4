import { parseJson, writePath } from '../../json';
import type { Draft } from '../draft';
import { joinQuery, readPiece, splitQuery, writePiece } from '../edit';
import { literally } from '../literally';
import { LOOP_VARIABLE, type Loop } from '../loops/loop';
import type { Expected, Statement } from './statement';

/** A loop as what is done, step by step. */
export function describeLoop(draft: Draft, loop: Loop): Statement[] {
  const request = (of: Draft): Statement => ({
    do: 'request',
    draft: of,
    retries: BUSY_TRIES,
    mayFail: false,
    readsJson: true,
    readsHeaders: false,
  });
  switch (loop.type) {
    case 'pages':
      return [
        {
          do: 'pages',
          from: loop.from,
          to: loop.to,
          step: loop.step,
          most: loop.mostPages,
          stopped: `Stopped after ${loop.mostPages} pages: there may be more.`,
          body: [
            request(withParameter(draft, loop.parameter)),
            { do: 'gather', list: loop.list, lacking: noListAt(loop.list) },
            ...(loop.total === undefined ? [] : [{ do: 'enough', total: loop.total } as const]),
            { do: 'pause', pauseMs: loop.pauseMs },
          ],
        },
      ];
    case 'poll':
      return [
        {
          do: 'tries',
          most: loop.most,
          inVain: `The condition was not met in ${loop.most} tries.`,
          body: [
            request(draft),
            { do: 'until', at: loop.at, is: expectedOf(loop.until) },
            { do: 'pause', pauseMs: loop.pauseMs },
          ],
        },
      ];
    case 'table':
      return [request(draft), { do: 'write-list', list: loop.list, lacking: noListAt(loop.list) }];
    case 'files':
      return [request(draft), { do: 'download', at: loop.at, folder: loop.folder, credentials: credentialsOf(draft) }];
    default:
      return loop satisfies never;
  }
}

/** A loop goes on where a server is busy for a while. */
const BUSY_TRIES = 4;

const credentialsOf = ({ headers }: Draft): string[] =>
  headers.flatMap(({ name, kept, role }) => (kept && role === 'credential' ? [name.toLowerCase()] : []));

const noListAt = (list: Parameters<typeof writePath>[0]): string =>
  `There is no list at ${writePath(list)} in the response.`;

/** What was typed to wait for: "true", "0" and "null" are waited for as JSON's own and as texts. */
function expectedOf(text: string): Expected {
  const value = parseJson(text);
  return typeof value === 'string' || value === undefined ? { text } : { text, value: value as Expected['value'] & {} };
}

const MARK = `{{${LOOP_VARIABLE.name}}}`;

/**
 * The draft with a variable in the place of a parameter's value: in the query, in a form's or JSON's member (a GraphQL variable
 * is one), or in a header. Where it is nowhere, the query gets it.
 */
function withParameter(draft: Draft, parameter: string): Draft {
  const variables = [...draft.variables.filter(({ name }) => name !== LOOP_VARIABLE.name), LOOP_VARIABLE];
  const { base, pieces } = splitQuery(draft.url);
  const mark = writePiece(parameter, MARK);
  const isIt = (piece: string): boolean => readPiece(piece).name === parameter;
  const inQuery = pieces.map((piece) => (isIt(piece) ? mark : piece));
  if (pieces.some(isIt)) return { ...draft, url: joinQuery(base, inQuery), variables };
  const payload = draft.payload.type === 'text' ? payloadWith(draft.payload.text, parameter) : undefined;
  if (payload !== undefined) return { ...draft, payload: { type: 'text', text: payload }, variables };
  const isHeader = ({ name, kept }: Draft['headers'][number]): boolean =>
    kept && name.toLowerCase() === parameter.toLowerCase();
  if (draft.headers.some(isHeader)) {
    const headers = draft.headers.map((header) => (isHeader(header) ? { ...header, value: MARK } : header));
    return { ...draft, headers, variables };
  }
  return { ...draft, url: joinQuery(base, [...inQuery.filter((piece) => piece !== ''), mark]), variables };
}

/** A payload with the mark in the place of a member's number, or of a form's field; undefined where it has none of that name. */
function payloadWith(text: string, parameter: string): string | undefined {
  const isJson = /^\s*[[{]/.test(text);
  const place = isJson
    ? new RegExp(`(${literally(JSON.stringify(parameter))}\\s*:\\s*"?)(-?\\d+)(?="?\\s*[,}\\]])`)
    : new RegExp(`((?:^|&)${literally(encodeURIComponent(parameter))}=)([^&]*)`);
  return place.test(text) ? text.replace(place, (_, before: string) => before + MARK) : undefined;
}
