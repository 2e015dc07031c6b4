import { EMPTY_DRAFT, freeName, type Sequence } from '#core/convert';
import { placeOf, renamed, type SharedVariable, usedOn, withSheet } from '#core/sheet';
import { goTo } from '../state/address';
import { tell } from '../state/notices';
import { fetchDrafts, keepDraft, keepVariables } from './draft-api';
import { writeOrder } from './sequence-order';
import { capturedDraftName, freeDraftName, newDraft } from './use-drafts';

/** Makes drafts of captured requests, each taking from the responses before it what it did in the capture. */
export async function beginSequence(captureId: string, { steps, carries }: Sequence): Promise<void> {
  const there = await fetchDrafts(captureId);
  if (!there.ok) {
    tell(there.problem.sentence, { detail: there.problem.advice });
    return;
  }
  const names = new Map<string, string>();
  const variables: SharedVariable[] = [...there.value.variables];
  const set: SharedVariable[] = [];
  const ids = new Map<number, string>();
  const captured = carries.map(({ name, value }) => ({ name, value, isSecret: false }));
  const drafts = steps.map(({ index, draft }) => {
    const name = capturedDraftName({ ...draft, variables: captured }, index);
    const kept = newDraft(freeDraftName(name, there.value.drafts), draft, index);
    ids.set(index, kept.id);
    return kept;
  });
  for (const { name, value, from, source, as } of carries) {
    const isTaken = variables.some((one) => one.name === name);
    names.set(name, isTaken ? freeName({ ...EMPTY_DRAFT, variables }, name) : name);
    const written = as === 'plain' ? {} : { as };
    const takenFrom = { draft: ids.get(from) ?? '', ...placeOf(source), ...written };
    const variable = { name: names.get(name) ?? name, value, isSecret: false, takenFrom };
    variables.push(variable);
    set.push(variable);
  }
  for (const kept of drafts) {
    let { text } = kept.sheet;
    for (const [from, to] of names) text = renamed(text, from, to);
    const sheet = { ...kept.sheet, text };
    const written = await keepDraft(captureId, withSheet(kept, sheet, usedOn(sheet, variables)));
    if (!written.ok) {
      tell(written.problem.sentence, { detail: written.problem.advice });
      return;
    }
  }
  const written = await keepVariables(captureId, { set, removed: [] });
  if (!written.ok) {
    tell(written.problem.sentence, { detail: written.problem.advice });
    return;
  }
  const made = drafts.map(({ id }) => id);
  writeOrder(captureId, { order: made, leftOut: there.value.drafts.map(({ id }) => id) });
  goTo({ view: 'drafts', draft: made[0], isOpen: false });
}
