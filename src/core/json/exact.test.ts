import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseExactJson, textAt, writeExactJson } from './index';

describe('JSON with numbers that no double holds', () => {
  it('keeps whole ones in their digits, and reads all else as ever', () => {
    const text =
      '{"id":98765432109876543,"ids":[-98765432109876544,9007199254740991],"text":"98765432109876543","more":1.98765432109876543,"__proto__":18446744073709551615}';
    const value = parseExactJson(text) as Record<string, unknown>;
    expect(value.id).toBe(98765432109876543n);
    expect(value.ids).toEqual([-98765432109876544n, 9007199254740991]);
    expect(value.text).toBe('98765432109876543');
    expect(value.more).toBe(1.9876543210987654);
    expect(Object.getOwnPropertyDescriptor(value, '__proto__')?.value).toBe(18446744073709551615n);
    expect(writeExactJson(value.ids)).toBe('[-98765432109876544,9007199254740991]');
    expect(parseExactJson('{"id":98765432109876543')).toBeUndefined();
    // A number that JSON does not allow stays one that it does not allow.
    expect(parseExactJson('{"id":0098765432109876543}')).toBeUndefined();
    expect(parseExactJson('{"id":98765432109876543x}')).toBeUndefined();
  });

  it('reads and writes any value as it is, whatever its texts hold', () => {
    const long = fc.bigInt(-(10n ** 30n), 10n ** 30n).filter((id) => !Number.isSafeInteger(Number(id)));
    const mark = fc.constantFrom('\uE000', '\uE00012345678901234567', '\\ue000', '"\uE0001"', '12345678901234567890');
    const leaf = fc.oneof(fc.string(), mark, fc.integer(), fc.boolean(), fc.constant(null), long);
    const value = fc.letrec<{ any: unknown }>((tie) => ({
      any: fc.oneof(
        { depthSize: 'small' },
        leaf,
        fc.array(tie('any')),
        fc.dictionary(fc.oneof(fc.string(), mark), tie('any')),
      ),
    })).any;
    fc.assert(
      fc.property(value, (one) => {
        expect(parseExactJson(writeExactJson(one))).toEqual(one);
      }),
    );
  });

  it('says what stands at a place in its very characters', () => {
    const text = '{"a":[1.0,{"b": [ 1, "x y" ] }],"n":98765432109876543,"s":"\\u00e9","n":1e400}';
    expect(textAt(text, ['a', 0])).toEqual({ kind: 'number', text: '1.0' });
    expect(textAt(text, ['a', 1])).toEqual({ kind: 'object', text: '{"b":[1,"x y"]}' });
    expect(textAt(text, ['n'])).toEqual({ kind: 'number', text: '1e400' });
    expect(textAt(text, ['s'])).toEqual({ kind: 'string', text: 'é' });
    expect(textAt(text, ['a', 'length'])).toBeUndefined();
    expect(textAt(text.slice(0, -1), ['n'])).toBeUndefined();
  });
});
