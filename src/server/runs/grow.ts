import { readPath } from '#core/json';
import { Grow } from '#core/series';
import type { RunOrder } from '#core/wire';
import { ServerProblem } from '../problem';
import type { RunContext } from './context';
import { stepOf } from './sender';

const PAUSE_MS = 500;

/** Finds how much a service gives at most: the page size doubled, then each filter left out. */
export async function runGrow(context: RunContext, order: Extract<RunOrder, { kind: 'grow' }>): Promise<void> {
  const list = order.list.trim() === '' ? undefined : readPath(order.list);
  if (list === undefined)
    throw new ServerProblem('invalid-input', 'Give the place of the list, like $.items.', 'Complete the fields.');
  const grow = new Grow(context.kept.draft, order.parameter.trim() === '' ? undefined : order.parameter.trim(), list);
  let state = context.result.grow ?? grow.begin();
  for (let step = grow.next(state); step !== undefined; step = grow.next(state)) {
    if (state.own !== undefined) await context.sender.rest(PAUSE_MS);
    const heard = await context.sender.send(step.draft);
    state = grow.take(state, heard.response);
    const told = state.told.at(-1)?.slice(step.label.length + 2) ?? '';
    const verdict = heard.response === undefined ? 'none' : heard.response.status < 300 ? 'good' : 'other';
    await context.keep(
      heard,
      stepOf(heard, { label: step.label, sentence: told, verdict }),
      { grow: state },
      state.end ?? `${step.label}: ${told}.`,
    );
  }
  await context.know({ grow: state }, state.end ?? 'There is nothing to vary.');
}
