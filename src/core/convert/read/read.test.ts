import { describe, expect, it } from 'vitest';
import { type Draft, draftHeaders, EMPTY_DRAFT, encodeParts } from '../draft';
import { findTarget } from '../index';
import { CASES } from '../testing/cases';
import { fillIn } from '../value';
import { guessSource, readBack, SOURCES, type SourceId } from './index';

/** A draft as what it puts on the wire. */
function wireOf(source: Draft): unknown {
  const { method, url, headers, payload } = fillIn(source);
  const bytes =
    payload.type === 'text'
      ? Buffer.from(payload.text)
      : payload.type === 'bytes'
        ? Buffer.from(payload.bytes)
        : payload.type === 'parts'
          ? Buffer.from(encodeParts(payload.parts, 'b'))
          : Buffer.alloc(0);
  const isForm = payload.type === 'parts';
  return {
    method,
    url: url.replace(/^(https?:\/\/[^/?]+)$/, '$1/'),
    headers: headers
      .filter(({ kept, name }) => kept && !(isForm && name.toLowerCase() === 'content-type'))
      .map(({ name, value }) => [name, value.replace(/^[ \t]+|[ \t]+$/g, '')]),
    bytes: bytes.toString('base64'),
  };
}

const render = (id: SourceId, draft: Draft) => {
  const target = findTarget(id);
  if (target === undefined) throw new Error(`no target ${id}`);
  return target.render(draft);
};

describe('what is emitted is read back as the same draft', () => {
  const ids = SOURCES.filter((id) => id !== 'fetch');
  it.each(ids)('from %s', (id) => {
    const differing = CASES.filter(({ name }) => !name.startsWith('option')).flatMap(({ name, draft, arrives }) => {
      const written = draft('http://127.0.0.1:8080');
      const { text, bytes, warnings } = render(id, written);
      // What is no text is not pasted.
      if (bytes !== undefined) return [];
      const wanted = arrives?.(written) ?? written;
      // What could not be written cannot be read; where the payload goes through files, they are read, too.
      if (warnings.some((warning) => /is not possible here|next to the file/.test(warning))) return [];
      // A message names one host: that it was sent to another does not stand in it.
      if (id === 'http' && name === 'another host') return [];
      const { drafts } = readBack(text, id);
      const [back] = drafts;
      const one = JSON.stringify(back === undefined || drafts.length > 1 ? drafts.length : wireOf(back));
      return one === JSON.stringify(wireOf(wanted)) ? [] : [`${name}: ${one.slice(0, 300)}`];
    });
    expect(differing).toEqual([]);
  });

  it('from a fetch of a page, as it is written here', () => {
    const draft = CASES.find(({ name }) => name === 'payload of all attacks in JSON')?.draft(
      'https://api.cumbrera.example',
    );
    if (draft === undefined) throw new Error('no case');
    const { text } = findTarget('js-fetch')?.render(draft) ?? { text: '' };
    const [back] = readBack(text, 'fetch').drafts;
    expect(back === undefined ? undefined : wireOf(back)).toEqual(wireOf(draft));
  });

  it('with its variables and secrets', () => {
    const draft = CASES.find(({ name }) => name === 'option: variables')?.draft('https://api.cumbrera.example');
    if (draft === undefined) throw new Error('no case');
    for (const id of ['curl-sh', 'curl-ps', 'curl-cmd'] as const) {
      const { text } = render(id, draft);
      const [back] = readBack(text, id).drafts;
      expect(
        back?.variables.map(({ name, value }) => [name.toLowerCase(), value]),
        id,
      ).toEqual([
        ['hut', "alba'norte"],
        ['day', '2026-10-03'],
      ]);
      expect(back === undefined ? undefined : wireOf(back), id).toEqual(wireOf(draft));
    }
  });
});

const one = (text: string, source: SourceId = 'curl-sh') => {
  const { drafts, notes } = readBack(text, source);
  const [draft] = drafts;
  if (draft === undefined) throw new Error(`nothing read: ${notes.join(' ')}`);
  return {
    method: draft.method,
    url: draft.url,
    headers: draft.headers.filter(({ kept }) => kept).map(({ name, value }) => `${name}: ${value}`),
    payload: draft.payload.type === 'text' ? draft.payload.text : draft.payload.type,
    notes: [...draft.notes, ...notes],
  };
};
const FORM = 'Content-Type: application/x-www-form-urlencoded';

describe('curl in a POSIX shell', () => {
  it.each<[string, Partial<ReturnType<typeof one>>]>([
    ['curl a.example', { method: 'GET', url: 'http://a.example' }],
    [
      `curl "https://a.example/\\"q\\"\\$x" -H $'X: it\\'s\\u00e9\\x41'`,
      { url: 'https://a.example/"q"$x', headers: ["X: it'séA"] },
    ],
    [
      'curl -sSLkXPUT https://a.example -dx=1',
      { method: 'PUT', payload: 'x=1', headers: ['Content-Type: application/x-www-form-urlencoded'] },
    ],
    ['curl https://a.example -d a=1 -d b=2', { method: 'POST', payload: 'a=1&b=2', headers: [FORM] }],
    [
      'curl -G https://a.example/?z=0 -d a=1 --data-urlencode "b=x y&z"',
      { method: 'GET', url: 'https://a.example/?z=0&a=1&b=x+y%26z', payload: 'none' },
    ],
    [
      'curl --json \'{"a":1}\' https://a.example',
      { method: 'POST', payload: '{"a":1}', headers: ['Content-Type: application/json', 'Accept: application/json'] },
    ],
    ['curl -u warden:alba https://a.example', { headers: ['Authorization: Basic d2FyZGVuOmFsYmE='] }],
    ['curl --oauth2-bearer t0k https://a.example', { headers: ['Authorization: Bearer t0k'] }],
    ['curl -I https://a.example', { method: 'HEAD' }],
    [
      'curl -A wayfarer -e https://b.example/ -b "a=1; b=2" https://a.example',
      { headers: ['User-Agent: wayfarer', 'Referer: https://b.example/', 'Cookie: a=1; b=2'] },
    ],
    ['curl -T hut.json https://a.example', { method: 'PUT', payload: 'file' }],
    ['curl https://a.example -F caption=hi -F "photo=@a b.png;type=image/png"', { method: 'POST', payload: 'parts' }],
    ["curl https://a.example --data-binary @- <<'EOF'\nline $x\nEOF\n", { method: 'POST', payload: 'line $x\n' }],
    ["printf 'a\\012\\303\\274%%' | curl --data-binary @- https://a.example", { payload: 'a\nü%' }],
    ['echo \'{"a":1}\' | curl -d @- https://a.example', { payload: '{"a":1}' }],
    ['curl \\\n  -H "A: b" \\\n  https://a.example # over', { headers: ['A: b'] }],
    ['curl -H "A;" -H "B:" -H "C: d" https://a.example', { headers: ['A: ', 'C: d'] }],
    ['curl -r 0-9 https://a.example', { headers: ['Range: bytes=0-9'] }],
    ['curl --url-query "a=x y" https://a.example/b', { url: 'https://a.example/b?a=x+y' }],
    ['curl --request-target "*" -X OPTIONS https://a.example/b', { url: 'https://a.example/b', method: 'OPTIONS' }],
    ['curl --user-ag wayfarer https://a.example', { headers: ['User-Agent: wayfarer'] }],
    [
      'curl -H @headers.txt https://a.example',
      { notes: ['Headers would be read from the file "headers.txt", which is not here.'] },
    ],
    [
      'curl --cacert ca.pem -x http://p.example https://a.example',
      {
        notes: [
          '--cacert ca.pem shapes the connection, not the request, and is left out.',
          '--proxy http://p.example shapes the connection, not the request, and is left out.',
        ],
      },
    ],
    ['curl --bogus https://a.example', { notes: ['curl knows no option --bogus.'] }],
    [
      'curl "https://a.example/$(whoami)"',
      {
        url: 'https://a.example/‹whoami›',
        notes: ['‹whoami› stands for what $(whoami) writes: nothing is run here.'],
      },
    ],
  ])('%s', (text, wanted) => {
    expect(one(text)).toMatchObject(wanted);
  });

  it('reads several, whatever parts them, and passes over what is none', () => {
    const text =
      'cd /tmp && curl https://a.example; curl https://b.example\ncurl https://c.example --next -d x https://d.example https://e.example | jq .\n';
    const { drafts, notes } = readBack(text, 'curl-sh');
    expect(drafts.map(({ method, url }) => `${method} ${url}`)).toEqual([
      'GET https://a.example',
      'GET https://b.example',
      'GET https://c.example',
      'POST https://d.example',
      'POST https://e.example',
    ]);
    expect(notes).toEqual(expect.arrayContaining([expect.stringContaining('"jq"')]));
  });
});

describe('curl in Windows shells', () => {
  it.each<[SourceId, string, Partial<ReturnType<typeof one>>]>([
    [
      'curl-cmd',
      'curl ^"https://a.example/?a=1^&b=2^" ^\n  -H ^"X: ^\\^"q^\\^"^"',
      { url: 'https://a.example/?a=1&b=2', headers: ['X: "q"'] },
    ],
    [
      'curl-cmd',
      'curl "https://a.example/?a=1&b=2" -H "X: \\"q\\" 100%%"',
      { url: 'https://a.example/?a=1&b=2', headers: ['X: "q" 100%'] },
    ],
    [
      'curl-ps',
      "curl.exe 'https://a.example/?a=1&b=2' `\n  -H 'X: it''s' --data-raw '{\\\"a\\\": 1}'",
      { headers: ["X: it's", FORM], payload: '{"a": 1}' },
    ],
    [
      'curl-ps',
      'curl.exe "https://a.example/`$x" -H "A: $env:TOKEN"',
      { url: 'https://a.example/$x', headers: ['A: ‹TOKEN›'] },
    ],
  ])('%s: %s', (source, text, wanted) => {
    expect(one(text, source)).toMatchObject(wanted);
  });
});

describe('variables of cmd', () => {
  it('are set by the text or are secrets of the environment; encoded bytes are none', () => {
    const text =
      'set "HUT=alba"\ncurl "https://a.example/%HUT%/caf%C3%A9/%E2%82%AC?a=%20b" -H "A: Bearer %ACCESS_TOKEN%" -H "B: 5%" -H ^"C: ^%HUT^%^"';
    const [draft] = readBack(text, 'curl-cmd').drafts;
    expect(draft?.url).toBe('https://a.example/‹HUT›/caf%C3%A9/%E2%82%AC?a=%20b');
    expect(draft?.headers.map(({ value }) => value)).toEqual(['Bearer ‹ACCESS_TOKEN›', '5%', '%HUT%']);
    expect(draft?.variables).toEqual([
      { name: 'HUT', value: 'alba', isSecret: false },
      { name: 'ACCESS_TOKEN', value: '', isSecret: true },
    ]);
  });
});

describe('variables of PowerShell', () => {
  it('are secrets where the environment holds them, under the name that the script gives them', () => {
    const text = [
      "$name = 'alba'",
      '$bearer = $env:HUT_TOKEN',
      'curl.exe "https://a.example/$name" -H "A: $bearer" -H "B: $env:NAME" -H "C: ${env:name}"',
    ].join('\n');
    const [draft] = readBack(text, 'curl-ps').drafts;
    expect(draft?.headers.map(({ name, value }) => `${name}: ${value}`)).toEqual([
      'A: ‹bearer›',
      'B: ‹NAME›',
      'C: ‹name_env›',
    ]);
    expect(draft?.variables).toEqual([
      { name: 'name', value: 'alba', isSecret: false },
      { name: 'bearer', value: '', isSecret: true },
      { name: 'NAME', value: '', isSecret: true },
      { name: 'name_env', value: '', isSecret: true },
    ]);
  });
});

describe('messages and calls', () => {
  it('reads several messages, bare line ends and folded headers', () => {
    const text =
      'POST /huts HTTP/1.1\nHost: a.example\nX-A: b\n  c\nContent-Length: 3\n\nabcGET https://b.example/x HTTP/1.1\n\n';
    const { drafts } = readBack(text, 'http');
    expect(drafts.map(({ method, url, payload }) => [method, url, payload.type])).toEqual([
      ['POST', 'https://a.example/huts', 'text'],
      ['GET', 'https://b.example/x', 'none'],
    ]);
    expect(drafts[0]?.headers.map(({ value }) => value)).toEqual(['b c']);
  });

  it('reads what browsers copy, and runs none of it', () => {
    const text = `await fetch("https://a.example/huts", {
      "headers": { "accept": "*/*", "x-n": "a\\u00e9" }, "referrer": "https://a.example/",
      "body": "{\\"a\\":1}", "method": "POST", "mode": "cors", "credentials": "include"
    }); window.fetch('/x' + evil());`;
    expect(one(text, 'fetch')).toMatchObject({
      method: 'POST',
      url: 'https://a.example/huts',
      headers: ['accept: */*', 'x-n: aé', 'Referer: https://a.example/', 'Content-Type: text/plain;charset=UTF-8'],
      payload: '{"a":1}',
    });
  });

  it.each([
    [
      'names, as variables: with what the script gives them, as secrets where it does not',
      "const hut = 'alba'; const base = 'https://a.example/huts'; const key = process.env.HUT_KEY;\n" +
        "fetch(`${base}/${hut}?q=${encodeURIComponent('a b')}`, { headers: { 'X-Key': key, 'X-Day': session.day } })",
      { url: 'https://a.example/huts/‹hut›?q=a%20b', headers: ['X-Key: ‹HUT_KEY›', 'X-Day: ‹day›'] },
      ['HUT_KEY is secret', 'hut=alba', 'day is secret'],
    ],
    [
      'objects by their names, spread and written short',
      "const common = { 'X-A': '1' }; const headers = { ...common, 'X-B': '2' }; const method = 'PATCH';\n" +
        "fetch('https://a.example/#/x', { method: 'put', headers, body: JSON.stringify({ beds: [1, { n: null }] }) })",
      {
        method: 'PUT',
        url: 'https://a.example/',
        headers: ['X-A: 1', 'X-B: 2', 'Content-Type: text/plain;charset=UTF-8'],
        payload: '{"beds":[1,{"n":null}]}',
      },
      [],
    ],
    [
      'forms, with the media type that they have',
      "fetch('https://a.example', { method: 'patch', body: new URLSearchParams({ q: 'a b&c', n: 2, who: name }) })",
      {
        method: 'patch',
        headers: [FORM.replace('urlencoded', 'urlencoded;charset=UTF-8')],
        payload: 'q=a+b%26c&n=2&who=‹name›',
      },
      ['name is secret'],
    ],
    [
      'forms made into text as text',
      "fetch('https://a.example', { method: 'POST', body: new URLSearchParams([['a', '1']]).toString() })",
      { headers: ['Content-Type: text/plain;charset=UTF-8'], payload: 'a=1' },
      [],
    ],
    [
      'what can be told where something else cannot',
      "fetch('https://a.example', { method: 'POST', headers: { A: sign(), B: 'b' }, body: await pack(), signal })",
      { method: 'POST', headers: ['B: b'], payload: 'none' },
      [],
    ],
  ])('reads %s', (_, text, wanted, variables) => {
    expect(one(text, 'fetch')).toMatchObject(wanted);
    expect(
      readBack(text, 'fetch').drafts[0]?.variables.map(({ name, value, isSecret }) =>
        isSecret ? `${name} is secret` : `${name}=${value}`,
      ),
    ).toEqual(variables);
  });

  it('tells what of a call it left out', () => {
    const text =
      "fetch('https://a.example', { headers: { A: sign() }, body: await pack(), signal: stop, mode: 'cors' })";
    expect(readBack(text, 'fetch').drafts[0]?.notes).toEqual([
      '"body" is left out: only its source is known, await pack().',
      '"signal" only concerns browsers, and is left out.',
      '"mode" only concerns browsers, and is left out.',
      '"A" is left out: only its source is known, sign().',
    ]);
  });

  it('reads the variables of code that is written here', () => {
    const draft: Draft = {
      ...EMPTY_DRAFT,
      method: 'POST',
      url: 'https://a.example/huts/‹hut›?day=‹day›',
      headers: draftHeaders(
        [
          { name: 'Content-Type', value: 'application/json' },
          { name: 'Authorization', value: 'Bearer ‹token›' },
        ],
        { url: 'https://a.example/', method: 'GET' },
        'faithful',
      ).map((header) => ({ ...header, kept: true })),
      payload: { type: 'text', text: '{"hut":"‹hut›"}' },
      variables: [
        { name: 'hut', value: 'alba', isSecret: false },
        { name: 'day', value: '2026-10-03', isSecret: false },
        { name: 'token', value: '', isSecret: true },
      ],
    };
    const back = readBack(findTarget('node-fetch')?.render(draft).text ?? '', 'fetch').drafts[0];
    expect(back).toMatchObject({ method: draft.method, payload: draft.payload });
    expect(back?.url).toBe(draft.url);
    expect(back?.variables.filter(({ isSecret }) => isSecret)).toHaveLength(1);
    expect(back?.variables).toEqual(expect.arrayContaining(draft.variables.slice(0, 2)));
  });

  it.each([
    ['curl https://a.example \\\n -H a:b', 'curl-sh'],
    ['curl ^"https://a.example^"', 'curl-cmd'],
    ["curl.exe 'https://a.example'", 'curl-ps'],
    ['fetch("https://a.example")', 'fetch'],
    ['GET /a HTTP/1.1\nHost: a.example\n\n', 'http'],
    ['walkers book beds', undefined],
  ])('%j looks like %s', (text, source) => expect(guessSource(text)).toBe(source));
});

it('takes a file for --data as curl does: as text, without line ends and NUL; as it stands for --data-binary', () => {
  const payloadOf = (option: string): string => {
    const { drafts } = readBack(`printf 'a\\nb\\000c\\r' | curl ${option} @- https://a.example/`, 'curl-sh');
    return JSON.stringify(drafts[0]?.payload);
  };
  expect(payloadOf('--data')).toBe('{"type":"text","text":"abc"}');
  expect(payloadOf('--data-ascii')).toBe('{"type":"text","text":"abc"}');
  expect(payloadOf('--data-binary')).toBe(JSON.stringify({ type: 'text', text: 'a\nb\0c\r' }));
});
