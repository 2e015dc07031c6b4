import { readBody } from '#core/content';
import {
  DEFAULT_OPTIONS,
  type Draft,
  draftFromExchange,
  FIRST_LOOP,
  LOOP_KINDS,
  type LoopFields,
  placeParameter,
  readLoop,
  renderLoop,
  SCRIPT_TARGETS,
  suggestLoop,
} from '#core/convert';
import { findResponse } from '#core/model';
import { inflateWithZlib } from '#server/inflate';
import { getExchange, UsageError, withInput } from '../input';
import { printExactly, tell } from '../output';
import { getPreset } from './convert';

export interface LoopOptions {
  readonly to: string;
  readonly kind: string;
  readonly preset: string;
  readonly parameter?: string;
  readonly from?: string;
  readonly last?: string;
  readonly step?: string;
  readonly values?: string;
  readonly firstDay?: string;
  readonly lastDay?: string;
  readonly list?: string;
  readonly total?: string;
  readonly pages?: string;
  readonly shortEnds?: true;
  readonly next?: string;
  readonly cursor?: string;
  readonly rows?: string;
  readonly status?: string;
  readonly most?: string;
  readonly at?: string;
  readonly until?: string;
  readonly pause?: string;
  readonly folder?: string;
  readonly secretsFromEnv?: true;
}

/** One request, as the code that loops over it: what is not given is taken from the captured response. */
export async function loop(file: string, place: string, options: LoopOptions): Promise<void> {
  const target = SCRIPT_TARGETS.find((id) => id === options.to);
  if (target === undefined)
    throw new UsageError(`Loops are written for ${SCRIPT_TARGETS.join(', ')}, not "${options.to}".`);
  const kinds = LOOP_KINDS.map(([kind]) => kind).filter((kind) => kind !== 'one');
  const kind = kinds.find((known) => known === options.kind || known === `${options.kind}s`);
  if (kind === undefined) throw new UsageError(`--kind takes ${kinds.join(', ')}, not "${options.kind}".`);
  const preset = getPreset(options.preset);
  const exchange = await withInput(file, (input) => getExchange(input, place));
  const { text } = readBody(findResponse(exchange), inflateWithZlib);
  const draft = draftFromExchange(exchange, preset);
  const first = options.from ?? numberIn(draft, options.parameter ?? FIRST_LOOP.parameter);
  const suggested = suggestLoop({ text, headers: findResponse(exchange)?.headers }, draft);
  const given: Partial<LoopFields> = {
    kind,
    ...(first === undefined ? {} : { from: first }),
    ...suggested,
    ...namedFields({
      parameter: options.parameter,
      to: options.last,
      step: options.step,
      values: options.values,
      firstDay: options.firstDay,
      lastDay: options.lastDay,
      list: options.list,
      total: options.total,
      pages: options.pages,
      shortEnds: options.shortEnds === true ? 'yes' : undefined,
      next: options.next,
      cursor: options.cursor,
      rows: options.rows,
      status: options.status,
      mostPages: options.most,
      mostTries: options.most,
      at: options.at,
      until: options.until,
      pauseMs: options.pause,
      folder: options.folder,
    }),
  };
  const fields: LoopFields = { ...FIRST_LOOP, ...given };
  const read = readLoop(fields);
  if (typeof read === 'string') throw new UsageError(read);
  if (read === undefined) throw new UsageError(`--kind takes ${kinds.join(', ')}.`);
  const rendering = renderLoop(draft, read, target, {
    ...DEFAULT_OPTIONS,
    secretsFromEnv: options.secretsFromEnv === true,
  });
  for (const warning of rendering.warnings) tell(warning);
  printExactly(rendering.text);
}

/** The members that were given. */
export const namedFields = (fields: Readonly<Record<string, string | undefined>>): Partial<LoopFields> =>
  Object.fromEntries(Object.entries(fields).filter(([, value]) => value !== undefined));

/** The whole number that a parameter of the request has; undefined where it has none. */
export function numberIn(draft: Draft, parameter: string): string | undefined {
  const { first } = placeParameter(draft, parameter, 'numbers');
  const [, number] = /^"?(-?\d+)"?$/.exec(first) ?? [];
  return number;
}
