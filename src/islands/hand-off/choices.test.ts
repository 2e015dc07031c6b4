import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { KINDS } from '../../core/model';
import { choiceOf, type HandOffChoice, PRESETS, SECRET_KINDS } from '../../core/redact';
import { BODY_WAYS, bodyWayOf, presetOf, withBodies, withKind, withPointed, withPreset, withValue } from './choices';

const value = fc.constantFrom('q7Rk2uLw9Zx4', 'w-2871-5f0c', 'Ana Prado');
type Change = (choice: HandOffChoice) => HandOffChoice;
const change: fc.Arbitrary<Change> = fc.oneof(
  fc.tuple(value, fc.boolean()).map(
    ([one, isOn]): Change =>
      (choice) =>
        withValue(choice, { value: one, by: 'place' }, isOn),
  ),
  fc.tuple(value, fc.boolean()).map(
    ([one, isSecret]): Change =>
      (choice) =>
        withPointed(choice, one, isSecret),
  ),
  fc.tuple(fc.constantFrom(...SECRET_KINDS), fc.boolean()).map(
    ([kind, isOn]): Change =>
      (choice) =>
        choice.kinds.includes(kind) === isOn ? choice : withKind(choice, kind, isOn),
  ),
  fc.tuple(fc.constantFrom(...KINDS), fc.constantFrom(...BODY_WAYS)).map(
    ([kind, [way]]): Change =>
      (choice) =>
        withBodies(choice, kind, way),
  ),
  fc.constantFrom(...PRESETS).map(
    (preset): Change =>
      (choice) =>
        withPreset(choice, preset),
  ),
);

describe('what leaves', () => {
  it('says one thing of each value and each kind, whatever was changed in whatever order', () => {
    fc.assert(
      fc.property(fc.array(change, { maxLength: 12 }), (changes) => {
        const choice = changes.reduce((before, make) => make(before), choiceOf('colleague'));
        for (const list of Object.values(choice)) expect(new Set(list).size).toBe(list.length);
        expect(choice.on.filter((one) => choice.off.includes(one))).toEqual([]);
        expect(choice.pointed.filter((one) => choice.off.includes(one) && choice.on.includes(one))).toEqual([]);
        expect(choice.withoutBodies.filter((kind) => choice.blank.includes(kind))).toEqual([]);
      }),
      { seed: 50, numRuns: 500 },
    );
  });

  it('is that of a preset as long as its kinds are, and forgets single values with another', () => {
    for (const preset of PRESETS) expect(presetOf(choiceOf(preset))).toBe(preset);
    const changed = withKind(choiceOf('public'), 'cookie', false);
    expect(presetOf(changed)).toBeUndefined();
    expect(presetOf(withKind(changed, 'cookie', true))).toBe('public');
    const switched = withValue(choiceOf('colleague'), { value: 'x', by: 'shape' }, false);
    expect(withPreset(switched, 'public')).toEqual(choiceOf('public'));
  });

  it('no longer has what was pointed at once that is left', () => {
    const pointed = withPointed(choiceOf('colleague'), 'Ana Prado', true);
    expect(withValue(pointed, { value: 'Ana Prado', by: 'pointed' }, false)).toEqual(choiceOf('colleague'));
  });

  it('has each kind of body in one way', () => {
    const choice = withBodies(withBodies(choiceOf('colleague'), 'image', 'none'), 'image', 'blank');
    expect([bodyWayOf(choice, 'image'), bodyWayOf(choice, 'font')]).toEqual(['blank', 'kept']);
    expect(withBodies(choice, 'image', 'kept')).toEqual(choiceOf('colleague'));
  });
});
