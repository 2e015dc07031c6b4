import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isObject, type Json, type JsonObject, normaliseEntry, writeHar } from './index';
import { HarError } from './problem';
import { type HarEnd, HarReader } from './read';

interface Read {
  readonly entries: Json[];
  readonly end: HarEnd;
}

function read(text: string | Uint8Array, chunkBytes = 1_000_000, fromByte = 0): Read {
  const bytes = typeof text === 'string' ? new TextEncoder().encode(text) : text;
  const entries: Json[] = [];
  const reader = new HarReader({ onEntry: ({ value }) => entries.push(value) }, fromByte);
  for (let at = 0; at < bytes.length; at += chunkBytes) reader.push(bytes.subarray(at, at + chunkBytes));
  return { entries, end: reader.end() };
}

const saved = ({ entries, end }: Read): string =>
  [
    ...writeHar(end.outline, {
      pages: end.rawPages.map((page) => JSON.stringify(page)),
      entries: entries.map((entry) => JSON.stringify(entry)),
    }),
  ].join('');

const isJson = (text: string): boolean => {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
};

function seems(text: string | Uint8Array): string {
  try {
    read(text);
  } catch (error) {
    if (!(error instanceof HarError)) throw error;
    return error.problem.code === 'another-kind' ? error.problem.seems : error.problem.code;
  }
  return 'a capture';
}

const entryAt = (at: number): JsonObject => ({
  startedDateTime: `2026-10-03T09:00:0${at}Z`,
  time: 10,
  request: { method: 'GET', url: `https://www.cumbrera.example/${at}`, headers: [] },
  response: { status: 200, headers: [], content: { text: `}],{"time": ${at}` } },
});
const entries = [0, 1, 2, 3].map(entryAt);
const har = (list: readonly Json[]): string =>
  JSON.stringify({ log: { version: '1.2', creator: { name: 'x' }, entries: list } });
const whole = har(entries);

describe('files around a capture', () => {
  it.each([
    ['a list with one capture', `[${whole}]`, true],
    ['a member of another object', `{"har": ${whole}, "name": "first visit"}`, true],
    ['a member of a member', `{"data":{"har":${whole}}}`, true],
    ['an argument of a function', `onInputData(${whole});\n`, false],
    ['a value of a variable', `var har = ${whole};`, false],
    ['entries a line each', entries.map((entry) => `${JSON.stringify(entry)}\n`).join(''), true],
    ['entries formatted in a row', entries.map((entry) => JSON.stringify(entry, null, 2)).join(',\n'), false],
  ])('reads %s', (_name, text, isSaved) => {
    for (const chunkBytes of [1, 7, 100_000]) {
      const result = read(text, chunkBytes);
      expect(result.entries).toEqual(entries);
      expect(result.end.capture.completeness).toEqual({ type: 'whole' });
      if (!isSaved) expect(read(saved(result)).entries).toEqual(entries);
      else if (text.includes('}\n{')) expect(saved(result)).toBe(text);
      else expect(JSON.parse(saved(result))).toEqual(JSON.parse(text));
    }
  });

  it('reads one entry alone', () => {
    expect(read(JSON.stringify(entryAt(1))).entries).toEqual([entryAt(1)]);
  });

  it.each([
    ['NULs', '\0\0\0\0'],
    ['a comma', ','],
    ['text', '\n-- end of export --'],
    ['a long text', 'x'.repeat(20_000)],
  ])('does not call a capture cut off behind which stand %s', (_name, tail) => {
    const { entries: kept, end } = read(whole + tail, 900);
    expect(kept).toEqual(entries);
    expect(end.capture.completeness).toEqual({
      type: 'whole',
      behind: { atByte: whole.length + tail.search(/\S|\0/), what: 'other' },
    });
  });

  it.each([
    ['nothing', '', ''],
    ['a line break', '\n', ''],
    ['a comma', ', ', ''],
    ['a list', ',', ']'],
  ])('tells captures in a row apart that have %s between them, each from its byte', (_name, between, close) => {
    const second = har([entryAt(3), entryAt(2)]);
    const text = `${close === '' ? '' : '['}${whole}${between}${second}${close}`;
    for (const chunkBytes of [1, 1000, 100_000]) {
      const first = read(text, chunkBytes);
      expect(first.entries).toEqual(entries);
      const { behind } = first.end.capture.completeness;
      expect(behind?.what).toBe('capture');
      const next = read(text, chunkBytes, behind?.atByte);
      expect(next.entries).toEqual([entryAt(3), entryAt(2)]);
      expect(next.end.capture.completeness.behind?.what).not.toBe('capture');
      expect(next.end.capture.completeness.type).toBe('whole');
    }
  });

  it('takes no list for a capture in which nothing is like an exchange', () => {
    for (const text of ['[{"a":1},{"b":2},{"c":3}]', '[[]]', '[1,"x",null]', '[{"log":[]}]'])
      expect(seems(text)).toBe('not-har');
  });

  it('says what a file seems to be that is no capture', () => {
    const bytes = (...list: number[]): Uint8Array => Uint8Array.from([...list, ...new Array(400).fill(7)]);
    const tar = new Uint8Array(600);
    tar.set(new TextEncoder().encode('ustar'), 257);
    expect(
      [
        '\n<!DOCTYPE html><title>Sign in</title>',
        '<?xml version="1.0"?><feed/>',
        bytes(0xfd, 0x37, 0x7a, 0x58, 0x5a, 0),
        'BZh91AY',
        bytes(0x28, 0xb5, 0x2f, 0xfd),
        bytes(0x50, 0x4b, 5, 6),
        tar,
        '%PDF-1.7',
        '---\nlog:\n  version: 1.2',
        JSON.stringify(whole),
        '{"a":1}',
      ].map(seems),
    ).toEqual(['web-page', 'xml', 'xz', 'bzip2', 'zstd', 'zip', 'tar', 'pdf', 'yaml', 'json-text', 'not-har']);
  });
});

describe('a bare list that is damaged', () => {
  it('keeps every other entry, wherever one of them is damaged', () => {
    const text = JSON.stringify(entries);
    const from = text.indexOf(JSON.stringify(entries[1]));
    const to = from + JSON.stringify(entries[1]).length;
    const untouched = [entries[0], entries[2], entries[3]];
    const damages = [
      (at: number) => text.slice(0, at) + text.slice(at + 1),
      (at: number) => `${text.slice(0, at)}"${text.slice(at)}`,
      (at: number) => `${text.slice(0, at)}]${text.slice(at)}`,
    ];
    for (const damage of damages) {
      for (let at = from; at < to; at++) {
        const kept = read(damage(at)).entries.map((entry) => JSON.stringify(entry));
        for (const entry of untouched) expect(kept).toContain(JSON.stringify(entry));
      }
    }
  });

  it('keeps what was complete before it is cut', () => {
    const text = JSON.stringify(entries);
    fc.assert(
      fc.property(fc.integer({ min: JSON.stringify(entries[0]).length + 2, max: text.length - 1 }), (cut) => {
        const { entries: kept, end } = read(text.slice(0, cut));
        expect(kept).toEqual(entries.slice(0, kept.length));
        expect(kept.length).toBeGreaterThan(0);
        expect(end.capture.completeness.type).toBe('cut');
      }),
    );
  });
});

describe('an entry that is not quite JSON', () => {
  it.each([
    ['a raw line feed', '"https:', '"ht\ntps:', 'ht\ntps:'],
    ['a raw tab', '"https:', '"\thttps:', '\thttps:'],
  ])('is kept with %s in a text', (_name, from, to, begins) => {
    const { entries: kept, end } = read(whole.replace(from, to));
    expect(kept.length).toBe(4);
    expect(JSON.stringify(kept[0])).toContain(JSON.stringify(begins).slice(1, -1));
    expect(end.capture.completeness).toEqual({ type: 'whole', mendedEntries: 1 });
  });

  it('is kept with numbers that are none, and not with what says nothing', () => {
    const odd = whole.replace('"time":10', '"time":NaN').replace('"time":10', '"time":-Infinity');
    expect(read(odd).end.capture.completeness).toEqual({ type: 'whole', mendedEntries: 2 });
    expect(read(odd).entries[0]).toMatchObject({ time: null });
    expect(read(whole.replace('"time":10', '"time":nope')).end.capture.completeness).toMatchObject({ type: 'damaged' });
  });
});

describe('an entry', () => {
  const nested = (deep: number): string =>
    har([...entries, JSON.parse(`${'{"a":'.repeat(deep - 1)}{}${'}'.repeat(deep - 1)}`) as Json]);

  it('may nest a thousand deep, and no deeper', () => {
    expect(read(nested(1000)).entries).toHaveLength(entries.length + 1);
    const { entries: kept, end } = read(nested(1001));
    expect(kept).toEqual(entries);
    expect(end.capture.completeness).toEqual({ type: 'damaged', damagedEntries: 1 });
  });
});

describe('a page or field of the log that is damaged', () => {
  const capture = JSON.stringify({
    log: {
      version: '1.2',
      browser: { name: 'Wayfarer', version: '9' },
      pages: [{ id: 'p1', title: 'Huts', pageTimings: { onLoad: 5 } }, { id: 'p2' }],
      entries,
      comment: 'after',
    },
  });
  const odd = (from: string | RegExp, to: string) => read(capture.replace(from, to));

  it.each([
    ['"Wayfarer"', 'NaN', ['log.browser']],
    ['{"onLoad":5}', '{"onLoad":-Infinity}', ['log.pages[0]']],
    ['"after"', '"a\nb"', ['log.comment']],
  ])('is kept where it can be mended: %s as %s', (from, to, mendedParts) => {
    const { entries: kept, end } = odd(from, to);
    expect(kept).toEqual(entries);
    expect(end.capture.completeness).toEqual({ type: 'whole', mendedParts });
  });

  it.each([
    ['"Wayfarer"', 'nope', ['log.browser']],
    ['"version":"1.2"', '"version":NaN', ['log.version']],
    ['"version":"1.2"', '"version" "1.2"', ['log.version']],
    ['"version":"1.2"', 'version:"1.2"', ['log']],
    ['"version":"9"}', '"version":"9"', ['log.browser']],
    ['"version":"9"', '"version":"9', ['log.browser']],
    ['{"onLoad":5}', '{onLoad:5}', ['log.pages[0]']],
    ['{"onLoad":5}}', '{"onLoad":5}', ['log.pages[0]']],
    ['"id":"p2"}', '"id":"p2"]', ['log.pages[1]']],
    ['"after"', 'afterwards', ['log.comment']],
    ['"after"', '{"a":tru}', ['log.comment']],
  ])('is left out and named, and costs no entry: %s as %s', (from, to, lostParts) => {
    const { entries: kept, end } = odd(from, to);
    expect(kept).toEqual(entries);
    expect(end.capture.completeness).toMatchObject({ lostParts });
  });

  it('leaves what stands around it as it is', () => {
    const { end } = odd('"Wayfarer"', 'nope');
    expect(end.capture.completeness.type).toBe('whole');
    expect(end.rawPages).toHaveLength(2);
    expect(end.outline.log.map((part) => ('key' in part ? part.key : part.type))).toEqual([
      'version',
      'pages',
      'entries',
      'comment',
    ]);
  });

  it('costs no entry wherever it lies, and is never passed over in silence', () => {
    const from = capture.indexOf('"version"');
    const to = capture.indexOf('"entries"') - 1;
    for (let at = from; at < to; at++) {
      for (const damage of ['', '\0', '"', '}', ']', '{']) {
        const text = capture.slice(0, at) + damage + capture.slice(at + 1);
        if (isJson(text)) continue;
        const { entries: kept, end } = read(text, 700);
        expect(kept.length, `${damage} at ${text.slice(at - 20, at + 20)}`).toBe(entries.length);
        const { lostParts = [], mendedParts = [], type } = end.capture.completeness;
        expect(type !== 'whole' || lostParts.length + mendedParts.length > 0, text.slice(at - 20, at + 20)).toBe(true);
      }
    }
  });

  it('makes no capture of what holds no entries', () => {
    expect(() => read('{"log":{"version":NaN,"entries":{}}}')).toThrow(/not JSON/);
    expect(() => read('{"log":{"version":NaN,"entries":[]}}')).toThrow(/not JSON/);
    expect(() => read(`{"a":b,${' '.repeat(1000)}"c":[{"time":1}]}`)).toThrow(/not JSON/);
  });
});

describe('a capture in XML', () => {
  const xml = (entry = ''): string => `<?xml version="1.0" encoding="UTF-8"?>
<log>
  <version>1.1</version>
  <creator><name>Wayfarer</name><version>9</version></creator>
  <pages><page><startedDateTime>2026-10-03T09:00:00.000+02:00</startedDateTime><id>0</id><title>Huts</title>
    <pageTimings><onContentLoad>210</onContentLoad><onLoad>430</onLoad></pageTimings></page></pages>
  <entries>
    <entry><pageref>0</pageref><startedDateTime>2026-10-03T09:00:00.100+02:00</startedDateTime><time>85</time>
      <request><method>GET</method><url>https://www.cumbrera.example/?a=1&amp;b=2</url><httpVersion>HTTP/1.1</httpVersion>
        <headers><header><name>Accept</name><value>text/html</value></header></headers><cookies/><queryString/></request>
      <response><status>200</status><statusText>OK</statusText><headers/><content><size>12</size>
        <mimeType>text/html</mimeType><text><![CDATA[<p>Huts</p> ]]></text></content></response>
      <timings><send>0</send><wait>80</wait><receive>5</receive></timings></entry>${entry}
  </entries>
</log>`;

  it('is read as HAR with these members would be', () => {
    for (const chunkBytes of [1, 13, 100_000]) {
      const { entries: kept, end } = read(xml(), chunkBytes);
      expect(end.capture).toMatchObject({
        recorder: { name: 'Wayfarer', version: '9' },
        utcOffsetMinutes: 120,
        completeness: { type: 'whole' },
        pages: [{ id: '0', title: 'Huts', milestones: [{ atMs: 210 }, { atMs: 430 }] }],
      });
      const [exchange] = kept.map((entry, at) => normaliseEntry(entry as JsonObject, at));
      expect(exchange).toMatchObject({
        timeMs: 85,
        bodyBytes: 12,
        request: { url: 'https://www.cumbrera.example/?a=1&b=2', headers: [{ name: 'Accept', value: 'text/html' }] },
        outcome: { response: { status: 200, body: { text: '<p>Huts</p> ' } } },
      });
      const again = read(saved({ entries: kept, end }));
      expect(again.entries).toEqual(kept);
    }
  });

  it('keeps the entries before the place where it is cut, and none of them twice or by half', () => {
    const text = xml('<entry><request><url>https://api.cumbrera.example/</url></request></entry>');
    for (let cut = text.indexOf('</entry>') + 8; cut < text.length; cut++) {
      const { entries: kept, end } = read(text.slice(0, cut));
      expect(kept.length).toBe(text.slice(0, cut).split('</entry>').length - 1);
      expect(end.capture.completeness.type).toBe(text.slice(0, cut).includes('</log>') ? 'whole' : 'cut');
    }
  });

  it('takes nothing of its names for its own, and is not led astray by depth or doctypes', () => {
    const deep = '<a>'.repeat(100_000);
    const odd = `<!DOCTYPE log [<!ENTITY x "y">]>${xml(`<entry><request><__proto__>1</__proto__><constructor>2</constructor></request></entry><entry>${deep}`).slice(38)}`;
    const { entries: kept } = read(odd);
    expect(kept.length).toBe(2);
    expect(Object.keys((isObject(kept[1]) && (kept[1]['request'] as JsonObject)) || {})).toEqual([
      '__proto__',
      'constructor',
    ]);
  });
});
