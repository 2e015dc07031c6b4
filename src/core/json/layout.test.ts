import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatJson } from './layout';

describe('formatted JSON', () => {
  it('has a line for each member, and keeps every value as it was sent', () => {
    const { text } = formatJson('{"a":1.0,"b":[ ],"c":[12345678901234567890,{"d":"\\u00e9 \\/, {"}]}');
    expect(text).toBe(
      '{\n  "a": 1.0,\n  "b": [],\n  "c": [\n    12345678901234567890,\n    {\n      "d": "\\u00e9 \\/, {"\n    }\n  ]\n}',
    );
  });

  it('means the same, and looks the same however it was spaced', () => {
    fc.assert(
      fc.property(fc.json(), fc.integer({ min: 0, max: 8 }), (json, indent) => {
        const { text } = formatJson(json);
        expect(JSON.parse(text)).toEqual(JSON.parse(json));
        expect(formatJson(JSON.stringify(JSON.parse(json), null, indent)).text).toBe(
          formatJson(JSON.stringify(JSON.parse(json))).text,
        );
      }),
    );
  });

  it('leads from each place that is no space to the same character', () => {
    fc.assert(
      fc.property(fc.json(), (json) => {
        const { text, placeOf } = formatJson(json);
        for (let at = 0; at < json.length; at++) {
          if (!/\s/.test(json.charAt(at))) expect(text.charAt(placeOf(at))).toBe(json.charAt(at));
        }
      }),
    );
  });

  it('goes as far as damaged JSON does, and is not drowned by nesting', () => {
    expect(formatJson('{"a": [1, "unfin').text).toBe('{\n  "a": [\n    1,\n    "unfin');
    expect(formatJson(']]}').text).toContain(']');
    expect(formatJson('['.repeat(20_000)).text.length).toBeLessThan(3_000_000);
  });
});
