import type { Draft } from '../draft';
import { joinQuery, readPiece, splitQuery, writePiece } from '../edit';
import { DEFAULT_OPTIONS, type RenderOptions } from '../options';
import type { ScriptTarget } from '../script';
import type { Rendering } from '../target';
import { type JsonSteps, LOOP_VARIABLE, type Loop } from './loop';
import { nodeLoop } from './node';
import { pythonLoop } from './python';
import { shellLoop } from './shell';

/** Reads a place as it is written in JSONPath's plain form: $.items[0].name, with [*] for each of an array. */
export function readSteps(text: string): JsonSteps | undefined {
  const steps: (string | number)[] = [];
  const rest = text.trim().replace(/^\$/, '');
  const token = /^(?:\.?\[(\d+|\*)\]|\.?\[(?:'((?:[^'\\]|\\.)*)'|"((?:[^"\\]|\\.)*)")\]|\.?([^.[\]\s'"]+))/;
  let at = rest;
  while (at !== '') {
    const match = token.exec(at);
    if (match === null) return undefined;
    const [whole, place, single, double, plain] = match;
    if (place !== undefined) steps.push(place === '*' ? '*' : Number(place));
    else steps.push((single ?? double)?.replace(/\\(.)/g, '$1') ?? plain ?? '');
    at = at.slice(whole.length);
  }
  return steps;
}

/** The draft with a variable in the place of a parameter's value; the parameter is added where it lacks. */
function withParameter(draft: Draft, parameter: string): Draft {
  const { base, pieces } = splitQuery(draft.url);
  const mark = writePiece(parameter, '{{page}}');
  const has = pieces.some((piece) => readPiece(piece).name === parameter);
  const next = pieces.map((piece) => (readPiece(piece).name === parameter ? mark : piece));
  const variables = [...draft.variables.filter(({ name }) => name !== LOOP_VARIABLE.name), LOOP_VARIABLE];
  return { ...draft, url: joinQuery(base, has ? next : [...next.filter((piece) => piece !== ''), mark]), variables };
}

/** Code that does more than one request, for the targets that have scripts. */
export function renderLoop(
  source: Draft,
  loop: Loop,
  target: ScriptTarget,
  options: RenderOptions = DEFAULT_OPTIONS,
): Rendering {
  const draft = loop.type === 'pages' ? withParameter(source, loop.parameter) : source;
  switch (target) {
    case 'python-requests':
      return pythonLoop(draft, loop, options);
    case 'node-fetch':
      return nodeLoop(draft, loop, options);
    case 'curl-sh':
      return shellLoop(draft, loop, options);
    default:
      return target satisfies never;
  }
}
