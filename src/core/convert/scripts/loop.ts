import { parseJson, writePath } from '../../json';
import type { Draft } from '../draft';
import { joinQuery, readPiece, splitQuery, writePiece } from '../edit';
import { LOOP_VARIABLE, type Loop } from '../loops/loop';
import type { Expected, Statement } from './statement';

/** A loop as what is done, step by step. */
export function describeLoop(draft: Draft, loop: Loop): Statement[] {
  const request = (of: Draft): Statement => ({
    do: 'request',
    draft: of,
    retries: 0,
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
        { do: 'write-rows' },
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
      return [request(draft), { do: 'download', at: loop.at, folder: loop.folder }];
    default:
      return loop satisfies never;
  }
}

const noListAt = (list: Parameters<typeof writePath>[0]): string =>
  `There is no list at ${writePath(list)} in the response.`;

/** What was typed to wait for: "true", "0" and "null" are waited for as JSON's own and as texts. */
function expectedOf(text: string): Expected {
  const value = parseJson(text);
  return typeof value === 'string' || value === undefined ? { text } : { text, value: value as Expected['value'] & {} };
}

/** The draft with a variable in the place of a parameter's value; the parameter is added where it is missing. */
function withParameter(draft: Draft, parameter: string): Draft {
  const { base, pieces } = splitQuery(draft.url);
  const mark = writePiece(parameter, `{{${LOOP_VARIABLE.name}}}`);
  const has = pieces.some((piece) => readPiece(piece).name === parameter);
  const next = pieces.map((piece) => (readPiece(piece).name === parameter ? mark : piece));
  const variables = [...draft.variables.filter(({ name }) => name !== LOOP_VARIABLE.name), LOOP_VARIABLE];
  return { ...draft, url: joinQuery(base, has ? next : [...next.filter((piece) => piece !== ''), mark]), variables };
}
