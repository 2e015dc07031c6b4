import { type CarriedAs, freeName, markOf, VARIABLE_MARK, type Variable } from '../convert';
import { type KeptDraft, withSheet } from './kept';
import type { Sheet } from './sheet';

/** Where a variable's value is taken from: what came back to another draft. */
export interface TakenFrom {
  /** The draft by its id. */
  readonly draft: string;
  readonly part: 'json' | 'header' | 'cookie' | 'text' | 'parameter';
  /**
   * A JSON path, the name of a header, of a cookie, or of a parameter of the Location, or what stands around a text:
   * `name="key" value="…"`.
   */
  readonly place: string;
  /** It is percent-encoded, or decoded, as a parameter's value is (RFC 3986 2.1). */
  readonly as?: Exclude<CarriedAs, 'plain'>;
}

/** A variable of a capture: one value for all of its drafts. */
export interface SharedVariable extends Variable {
  readonly takenFrom?: TakenFrom;
}

/** What becomes of some of a capture's variables; all others stay. */
export interface VariablesChange {
  readonly set: readonly SharedVariable[];
  /** By their names. */
  readonly removed: readonly string[];
}

/** The change from one list of variables to another. */
export function variablesChange(before: readonly SharedVariable[], after: readonly SharedVariable[]): VariablesChange {
  const were = new Map(before.map((one) => [one.name, JSON.stringify(one)]));
  const kept = new Set(after.map(({ name }) => name));
  return {
    set: after.filter((one) => were.get(one.name) !== JSON.stringify(one)),
    removed: [...were.keys()].filter((name) => !kept.has(name)),
  };
}

/** The names of the variables whose slots stand on a sheet, in their order. */
export const namesOn = ({ text }: Pick<Sheet, 'text'>): string[] => [
  ...new Set([...text.matchAll(VARIABLE_MARK)].map((match) => match[1] ?? '')),
];

/** The variables that a sheet uses. */
export const usedOn = (sheet: Pick<Sheet, 'text'>, variables: readonly SharedVariable[]): SharedVariable[] => {
  const names = new Set(namesOn(sheet));
  return variables.filter(({ name }) => names.has(name));
};

/**
 * One list of variables for all drafts of a capture, from those that each draft had for itself. A name that two drafts gave
 * different values is another one in the second.
 */
export function shareVariables(drafts: readonly KeptDraft[]): {
  readonly drafts: readonly KeptDraft[];
  readonly variables: readonly SharedVariable[];
} {
  const variables: SharedVariable[] = [];
  const shared = drafts.map((kept) => {
    let { text } = kept.sheet;
    for (const variable of kept.draft.variables) {
      const same = variables.find(({ name }) => name === variable.name);
      if (same === undefined) variables.push(variable);
      if (same === undefined || same.value === variable.value) continue;
      const name = freeName({ ...kept.draft, variables: [...variables, ...kept.draft.variables] }, variable.name);
      variables.push({ ...variable, name });
      text = renamed(text, variable.name, name);
    }
    return { kept, text };
  });
  return {
    variables,
    drafts: shared.map(({ kept, text }) =>
      withVariables(text === kept.sheet.text ? kept : withSheet(kept, { ...kept.sheet, text }), variables),
    ),
  };
}

/** The draft with those of its capture's variables that it uses. */
export function withVariables(kept: KeptDraft, variables: readonly SharedVariable[]): KeptDraft {
  const used = usedOn(kept.sheet, variables).map(({ name, value, isSecret }) => ({ name, value, isSecret }));
  return JSON.stringify(used) === JSON.stringify(kept.draft.variables) ? kept : withSheet(kept, kept.sheet, used);
}

/** A text with the slots of a variable under another name. */
export const renamed = (text: string, from: string, to: string): string => text.replaceAll(markOf(from), markOf(to));

/** A text with a variable's value in place of its slots. */
export const inlined = (text: string, { name, value }: Variable): string => text.replaceAll(markOf(name), () => value);
