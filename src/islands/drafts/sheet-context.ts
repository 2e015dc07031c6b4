import { StateEffect, StateField } from '@codemirror/state';
import type { Draft } from '#core/convert';
import {
  differences,
  groupsOf,
  type KeptDraft,
  type LineDifference,
  readSheet,
  type SharedVariable,
  type Sheet,
  type SheetGroup,
  type SheetRead,
} from '#core/sheet';
import { partsOf } from '#core/trim';

/** What a sheet is read with, beside its text. */
export interface SheetContext {
  readonly layout: Sheet['layout'];
  readonly attachments: Sheet['attachments'];
  readonly variables: readonly SharedVariable[];
  /** What the sheet does not say. */
  readonly before: Draft;
  /** The sheet of the captured request; absent where there is none. */
  readonly captured: Sheet | undefined;
  /** The parts that a trim found to be needed. */
  readonly needed: NonNullable<KeptDraft['needed']>;
}

/** A sheet as it was read, with all that is drawn around its text. */
export interface ReadContext extends SheetContext {
  readonly read: SheetRead;
  readonly groups: readonly SheetGroup[];
  /** The group of each line, by its place; absent for blank lines. */
  readonly groupAt: ReadonlyMap<number, SheetGroup>;
  readonly differences: readonly LineDifference[];
  /** Why lines are needed, by their places, where a trim has shown it. */
  readonly reasons: ReadonlyMap<number, string>;
}

export const setContext = StateEffect.define<SheetContext>();

function readContext(context: SheetContext, text: string): ReadContext {
  const sheet = { text, layout: context.layout, attachments: context.attachments };
  const read = readSheet(sheet, context.before, context.variables);
  const groups = groupsOf(read, context.layout);
  const groupAt = new Map<number, SheetGroup>();
  for (const group of groups) for (let at = group.from; at <= group.to; at++) groupAt.set(at, group);
  const told = context.captured === undefined ? [] : differences(context.captured, sheet);
  return { ...context, read, groups, groupAt, differences: told, reasons: reasonsOf(context, sheet, read.draft) };
}

/** Why each line is needed: its parts' reasons. */
function reasonsOf({ needed }: SheetContext, sheet: Sheet, draft: Draft): ReadonlyMap<number, string> {
  const reasons = new Map<number, string>();
  if (needed.length === 0) return reasons;
  const byKey = new Map(needed.map(({ key, reason }) => [key, reason]));
  for (const { key, from } of partsOf({ sheet, draft }).flatMap((part) => [part, ...part.inside])) {
    const reason = byKey.get(key);
    const before = reasons.get(from);
    if (reason !== undefined) reasons.set(from, before === undefined ? reason : `${before}; ${reason}`);
  }
  return reasons;
}

/** The sheet as it is read now, kept with the editor's state. */
export const sheetField = (first: SheetContext): StateField<ReadContext> =>
  StateField.define<ReadContext>({
    create: (state) => readContext(first, state.doc.toString()),
    update: (value, transaction) => {
      let context: SheetContext = value;
      for (const effect of transaction.effects) if (effect.is(setContext)) context = effect.value;
      return context === value && !transaction.docChanged
        ? value
        : readContext(context, transaction.state.doc.toString());
    },
  });
