import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readQuery, takeApart } from '../http';
import {
  boundaryOf,
  bytesFromText,
  mergeDeferred,
  readEvents,
  readGraphql,
  readJsonLines,
  readMultipart,
} from './index';

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

describe('multipart', () => {
  it.each([
    ['multipart/form-data; boundary=abc', 'abc'],
    ['multipart/mixed; charset=x; boundary="a b"', 'a b'],
    ['multipart/mixed', undefined],
  ])('the boundary of %s is %s', (type, boundary) => expect(boundaryOf(type)).toBe(boundary));

  it('gives each part its name, file, type and very bytes', () => {
    const body =
      'preamble\r\n--b\r\nContent-Disposition: form-data; name="title"\r\n\r\nline 1\r\nline 2\r\n' +
      '--b\r\nContent-Disposition: form-data; name="file"; filename="%22a%22 ü.csv"\r\nContent-Type: text/csv\r\n\r\n--bold\r\n--b--\r\nafter';
    const parts = readMultipart(bytesFromText(body), 'b');
    expect(parts.map(({ name, fileName, contentType, bytes }) => [name, fileName, contentType, text(bytes)])).toEqual([
      ['title', undefined, undefined, 'line 1\r\nline 2'],
      ['file', '"a" ü.csv', 'text/csv', '--bold'],
    ]);
  });

  it('gives back any parts that were merged', () => {
    const part = fc.record({ name: fc.stringMatching(/^[a-z]{1,8}$/), bytes: fc.uint8Array({ maxLength: 60 }) });
    fc.assert(
      fc.property(fc.array(part, { maxLength: 5 }), (parts) => {
        const chunks = parts.flatMap(({ name, bytes }) => [
          Buffer.from(`--q9q9\r\ncontent-disposition: form-data; name=${name}\r\n\r\n`),
          Buffer.from(bytes),
          Buffer.from('\r\n'),
        ]);
        const whole = Buffer.concat([...chunks, Buffer.from('--q9q9--\r\n')]);
        const read = readMultipart(whole, 'q9q9').map(({ name, bytes }) => ({ name, bytes: [...bytes] }));
        expect(read).toEqual(parts.map(({ name, bytes }) => ({ name, bytes: [...bytes] })));
      }),
    );
  });

  it('reads a form as the platform itself does', async () => {
    const names = fc.constantFrom('huts', 'a b', 'ü', '"q"', 'x; filename=y', 'n=1', '', 'a\\b', '%22', '[0]', 'a\nb');
    const fileNames = fc.constantFrom('hut.txt', 'ü.png', 'a"b.txt', 'a; name=c', 'c:\\d.txt');
    const values = fc.constantFrom('1', '', 'a\r\nb', '--b', '\r\n--x', 'ü');
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(names, values, fc.option(fileNames)), { maxLength: 4 }), async (fields) => {
        const form = new FormData();
        for (const [name, value, file] of fields)
          if (file === null) form.append(name, value);
          else form.append(name, new Blob([value]), file);
        const sent = new Response(form);
        const type = sent.headers.get('content-type') ?? '';
        const bytes = new Uint8Array(await sent.arrayBuffer());
        const read = await new Response(bytes, { headers: { 'content-type': type } }).formData();
        const entries = [...read].map(async ([name, value]) =>
          typeof value === 'string' ? [name, undefined, value] : [name, value.name, await value.text()],
        );
        const own = readMultipart(bytes, boundaryOf(type) ?? '');
        expect(own.map(({ name, fileName, bytes: part }) => [name, fileName, text(part)])).toEqual(
          await Promise.all(entries),
        );
      }),
    );
  });

  it.each([
    ['form-data; name="a; filename=x"', 'a; filename=x', undefined],
    ['form-data; filename="b"; name="a"', 'a', 'b'],
    ['form-data;name=a;filename=b', 'a', 'b'],
    ['form-data; name="a\\"b"', 'a"b', undefined],
    [`form-data; name="a"; filename="u.txt"; filename*=UTF-8''%C3%BC.txt`, 'a', 'ü.txt'],
    ['form-data;\r\n\tname="a"', 'a', undefined],
    ['form-data', undefined, undefined],
  ])('a part of %j has its name and its file', (disposition, name, fileName) => {
    const body = `--b\r\nContent-Disposition: ${disposition}\r\n\r\n1\r\n--b--\r\n`;
    expect(readMultipart(bytesFromText(body), 'b')).toMatchObject([{ name, fileName, bytes: bytesFromText('1') }]);
  });

  it('keeps a last part that was cut off', () => {
    expect(readMultipart(bytesFromText('--b\n\nab'), 'b').map(({ bytes }) => text(bytes))).toEqual(['ab']);
  });
});

describe('a GraphQL request', () => {
  const url = 'https://api.example/graphql';
  const json = (value: unknown) => readGraphql(url, 'application/json', JSON.stringify(value));

  it('has its operation formatted, its fragments apart and its variables', () => {
    const query = 'query Hut($slug: String!) { hut(slug: $slug) { ...Card } } fragment Card on Hut { name beds }';
    const [call] = json({ query, operationName: 'Hut', variables: { slug: 'alba' } })?.calls ?? [];
    expect(call).toMatchObject({ name: 'Hut', type: 'query', variables: '{"slug":"alba"}', problem: undefined });
    expect(call?.query).toBe('query Hut($slug: String!) {\n  hut(slug: $slug) {\n    ...Card\n  }\n}');
    expect(call?.fragments).toEqual([{ name: 'Card', text: 'fragment Card on Hut {\n  name\n  beds\n}' }]);
  });

  it('has variables in all their digits', () => {
    const payload = '{"query":"query Hut($id: ID) { hut(id: $id) { name } }","variables":{"id":98765432109876543}}';
    expect(readGraphql(url, 'application/json', payload)?.calls[0]?.variables).toBe('{"id":98765432109876543}');
  });

  it('may be a batch', () => {
    const read = json([{ query: '{ a }' }, { query: 'mutation B { b }' }]);
    expect([read?.isBatched, read?.calls.map(({ type, name }) => [type, name])]).toEqual([
      true,
      [
        ['query', undefined],
        ['mutation', 'B'],
      ],
    ]);
  });

  it('may be persisted, and in the query of a GET', () => {
    const extensions = { persistedQuery: { version: 1, sha256Hash: 'abc' } };
    const query = `operationName=Hut&extensions=${encodeURIComponent(JSON.stringify(extensions))}`;
    expect(readGraphql(`${url}?${query}`, undefined, undefined)?.calls).toMatchObject([
      { name: 'Hut', query: undefined, persistedHash: 'abc' },
    ]);
  });

  it('that cannot be parsed is shown as it was sent, with the reason', () => {
    const [call] = json({ query: 'query { a( }' })?.calls ?? [];
    expect(call?.query).toBe('query { a( }');
    expect(call?.problem).toMatch(/Syntax Error/);
  });

  it.each([{ query: 'alba norte' }, { q: '{ a }' }, [], 'text', null])('%j is none', (value) => {
    expect(json(value)).toBeUndefined();
  });
});

describe('a deferred GraphQL answer', () => {
  it('is merged where parts name their path', () => {
    const merged = mergeDeferred([
      '{"data":{"hut":{"name":"Alba"},"list":[1]},"hasNext":true}',
      '{"incremental":[{"path":["hut"],"data":{"beds":{"free":3}}},{"path":["list",1],"items":[2,3]}],"hasNext":true}',
      '{"path":["hut"],"data":{"beds":{"all":9}},"hasNext":false}',
    ]);
    expect(JSON.parse(merged ?? '')).toEqual({
      data: { hut: { name: 'Alba', beds: { free: 3, all: 9 } }, list: [1, 2, 3] },
    });
  });

  it('is merged where parts name an id that was announced', () => {
    const merged = mergeDeferred([
      '{"data":{"hut":{"name":"Alba"}},"pending":[{"id":"0","path":["hut"]}],"hasNext":true}',
      '{"incremental":[{"id":"0","subPath":[],"data":{"beds":9}}],"completed":[{"id":"0"}],"hasNext":false}',
    ]);
    expect(JSON.parse(merged ?? '')).toEqual({ data: { hut: { name: 'Alba', beds: 9 } } });
  });

  it('never writes to what objects inherit', () => {
    mergeDeferred([
      '{"data":{}}',
      '{"path":["__proto__"],"data":{"hurt":1}}',
      '{"path":[],"data":{"__proto__":{"hurt":1}}}',
    ]);
    expect(({} as { hurt?: number }).hurt).toBeUndefined();
  });

  it('is not seen in other parts', () => expect(mergeDeferred(['{"a":1}', 'x'])).toBeUndefined());
});

describe('records', () => {
  it('of an event stream are read by the standard’s own example', () => {
    const stream =
      ': a comment\n\ndata: first\ndata: lines\nid: 1\n\nevent: add\r\ndata:73857293\r\n\r\ndata\n\ndata: cut';
    expect(readEvents(stream)).toEqual([
      { event: undefined, id: '1', data: 'first\nlines' },
      { event: 'add', id: '1', data: '73857293' },
      { event: undefined, id: '1', data: '' },
      { event: undefined, id: '1', data: 'cut' },
    ]);
  });

  it('of JSON lines are its lines, of a sequence its texts', () => {
    expect(readJsonLines('{"a":1}\r\n\n[2]\n').map(({ data }) => data)).toEqual(['{"a":1}', '[2]']);
    expect(readJsonLines('\u001e{"a":\n1}\n\u001e2\n').map(({ data }) => data)).toEqual(['{"a":\n1}', '2']);
  });
});

describe('an address taken apart', () => {
  it('has its parts as they stand in it', () => {
    const parts = takeApart(
      'HTTPS://ana:x@Api.example:8443/huts/alba%20norte/?page=1&tag=a&tag=&bare&q=a+b%26#top%20end',
    );
    expect(parts).toMatchObject({
      scheme: 'https',
      user: 'ana:x',
      host: 'Api.example',
      port: '8443',
      usedPort: '8443',
      segments: ['huts', 'alba norte', ''],
      fragment: 'top end',
    });
    expect(parts?.query).toEqual([
      { name: 'page', value: '1', form: 'filled', nth: 1, ofName: 1 },
      { name: 'tag', value: 'a', form: 'filled', nth: 1, ofName: 2 },
      { name: 'tag', value: '', form: 'empty', nth: 2, ofName: 2 },
      { name: 'bare', value: '', form: 'bare', nth: 1, ofName: 1 },
      { name: 'q', value: 'a b&', form: 'filled', nth: 1, ofName: 1 },
    ]);
  });

  it.each([
    ['http://a.example', '80'],
    ['wss://a.example/x', '443'],
    ['http://[::1]:8080/', '8080'],
    ['ftp://a.example/', undefined],
  ])('%s uses the port %s', (url, port) => expect(takeApart(url)?.usedPort).toBe(port));

  it.each(['data:text/plain,x', 'about:blank', 'no address', ''])('%j has no host', (url) =>
    expect(takeApart(url)).toBeUndefined(),
  );

  it('reads a form’s fields as the standard’s parser does', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.string(), fc.string())), (pairs) => {
        const written = new URLSearchParams(pairs).toString();
        expect(readQuery(written).map(({ name, value }) => [name, value])).toEqual([...new URLSearchParams(written)]);
      }),
    );
  });
});
