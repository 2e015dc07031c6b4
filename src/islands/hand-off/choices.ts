import type { Kind } from '#core/model';
import {
  choiceOf,
  type HandOffChoice,
  KINDS_OF_PRESET,
  PRESETS,
  type RedactPreset,
  type SecretKind,
} from '#core/redact';
import type { ListedSecret } from '#core/wire';

// Changes of what leaves, each from one choice to the next.

export const PRESET_WORDS: Record<RedactPreset, string> = {
  colleague: 'a colleague',
  supplier: 'a supplier',
  public: 'the public',
};

/** The preset whose kinds are just those that are chosen; undefined where none is. */
export const presetOf = ({ kinds }: HandOffChoice): RedactPreset | undefined =>
  PRESETS.find((preset) => {
    const own = KINDS_OF_PRESET[preset];
    return own.size === kinds.length && kinds.every((kind) => own.has(kind));
  });

/** Values that were switched one by one were so against the kinds of before. */
export const withPreset = (choice: HandOffChoice, preset: RedactPreset): HandOffChoice => ({
  ...choice,
  kinds: choiceOf(preset).kinds,
  on: [],
  off: [],
});

export const withKind = (choice: HandOffChoice, kind: SecretKind, isOn: boolean): HandOffChoice => ({
  ...choice,
  kinds: isOn ? [...choice.kinds, kind] : choice.kinds.filter((one) => one !== kind),
});

/** A value that is taken out, or left, whatever its kind. */
export function withValue(
  choice: HandOffChoice,
  { value, by }: Pick<ListedSecret, 'value' | 'by'>,
  isOn: boolean,
): HandOffChoice {
  const without = (values: readonly string[]): string[] => values.filter((one) => one !== value);
  // What was pointed at or written by the user is no more so once it is left.
  if (!isOn && by === 'pointed') return { ...choice, pointed: without(choice.pointed) };
  return {
    ...choice,
    on: isOn ? [...without(choice.on), value] : without(choice.on),
    off: isOn ? without(choice.off) : [...without(choice.off), value],
  };
}

/** What somebody points at is secret wherever it stands, or is no more. */
export const withPointed = (choice: HandOffChoice, value: string, isSecret: boolean): HandOffChoice => ({
  ...choice,
  pointed: [...choice.pointed.filter((one) => one !== value), ...(isSecret ? [value] : [])],
  // Whatever was said of it before.
  off: choice.off.filter((one) => one !== value),
});

/** What becomes of the bodies of a kind of exchange. */
export const BODY_WAYS = [
  ['kept', 'with bodies'],
  ['blank', 'blank bodies of the same length'],
  ['none', 'without bodies'],
] as const;
export type BodyWay = (typeof BODY_WAYS)[number][0];

export const bodyWayOf = ({ withoutBodies, blank }: HandOffChoice, kind: Kind): BodyWay =>
  withoutBodies.includes(kind) ? 'none' : blank.includes(kind) ? 'blank' : 'kept';

export function withBodies(choice: HandOffChoice, kind: Kind, way: BodyWay): HandOffChoice {
  const others = (kinds: readonly Kind[]): Kind[] => kinds.filter((one) => one !== kind);
  return {
    ...choice,
    withoutBodies: [...others(choice.withoutBodies), ...(way === 'none' ? [kind] : [])],
    blank: [...others(choice.blank), ...(way === 'blank' ? [kind] : [])],
  };
}
