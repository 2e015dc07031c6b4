import { bytesFromText } from '../../content';
import { type Draft, type DraftPart, EMPTY_DRAFT } from '../draft';
import { ATTACKS, type Case, own, text, UNICODE } from './odd-texts';

const TEXTS = [
  '{"a":1}',
  '{"name":"Alba Norte","beds":[1,2,3],"open":true,"note":null,"deep":{"x":{"y":"z"}}}',
  '{ "laid": "out",\n  "twice": [ ] }\n',
  '{"price":1.50,"big":12345678901234567890,"e":1e5}',
  '{"a":"ü€😀\\u0000\\n\\"q\\"","__proto__":{"x":1}}',
  '{"it\'s":"a \\"quote\\"","$x":"${y}","#{z}":"@w"}',
  '[1,"2",[3]]',
  'a=1&b=two+words&c=%26',
  'line\nfeed\n',
  'carriage\r\nreturn\r\n',
  'tab\tbed',
  '\ufeffmark',
  'nul\u0000byte',
  '\u0001\u001b[31m\u007f\u0085',
  ' blanks around ',
  '{}',
  'null',
  '"text"',
  '{"a":1,"a":2}',
  '{"n":1.0,"m":-0,"k":1e400}',
  '--boundary--',
  '--',
  '-',
  '=',
  '&&',
  '%00%zz',
  '@/etc/passwd',
  '<xml attr="v">&amp;</xml>',
  '',
];
const everyByte = Uint8Array.from({ length: 256 }, (_, at) => at);

/** Long because it is a list of payloads, one after the other. */
export function payloadCases(): Omit<Case, 'options'>[] {
  const post =
    (payload: Draft['payload'], type?: string): Case['draft'] =>
    (origin) => ({
      ...EMPTY_DRAFT,
      method: 'POST',
      url: `${origin}/huts`,
      headers: type === undefined ? [] : [own('Content-Type', type)],
      payload,
    });
  return [
    ...TEXTS.map((one, at) => ({
      name: `payload ${JSON.stringify(one).slice(0, 40)}`,
      draft: post(
        text(one),
        /^[[{]/.test(one) ? 'application/json' : at % 2 === 0 ? 'text/plain' : 'application/x-www-form-urlencoded',
      ),
    })),
    ...[...ATTACKS, ...UNICODE].map((one) => ({ name: `payload ${one}`, draft: post(text(one), 'text/plain') })),
    {
      name: 'payload of all attacks in JSON',
      draft: post(text(JSON.stringify([...ATTACKS, ...UNICODE])), 'application/json'),
    },
    { name: 'payload without a type', draft: post(text('x=y')) },
    { name: 'every byte', draft: post({ type: 'bytes', bytes: everyByte }, 'application/octet-stream') },
    {
      name: 'no UTF-8',
      draft: post({ type: 'bytes', bytes: Uint8Array.of(0xff, 0xfe, 0xc3, 0x28) }, 'application/octet-stream'),
    },
    { name: '100 kB of text', draft: post(text(`'"$\`\\%\n ü`.repeat(10_000)), 'text/plain') },
    {
      name: '300 kB of bytes',
      draft: post(
        { type: 'bytes', bytes: Uint8Array.from({ length: 300_000 }, (_, at) => (at * 7) % 256) },
        'application/octet-stream',
      ),
    },
    ...['POST', 'PUT', 'PATCH'].map((method) => ({
      name: `empty ${method}`,
      draft: (origin: string): Draft => ({ ...EMPTY_DRAFT, method, url: `${origin}/huts` }),
    })),
    ...['GET', 'DELETE', 'PUT', 'PATCH', 'OPTIONS', 'PROPFIND'].map((method) => ({
      name: `${method} with a payload`,
      draft: (origin: string): Draft => ({
        ...EMPTY_DRAFT,
        method,
        url: `${origin}/huts`,
        headers: [own('Content-Type', 'application/json')],
        payload: text('{"a":1}'),
      }),
    })),
    { name: 'a multipart form', draft: post(formOf(), 'multipart/form-data; boundary=xYzZY') },
    ...Object.entries(ODD_FORMS).map(([name, parts]) => ({
      name: `a form with ${name}`,
      draft: post({ type: 'parts', boundary: 'xYzZY', parts }, 'multipart/form-data; boundary=xYzZY'),
    })),
    { name: 'a form whose type names no boundary', draft: post(formOf(), 'multipart/form-data') },
    { name: 'a form whose type names no boundary', draft: post(formOf(), 'multipart/form-data') },
    { name: 'a form whose type names another boundary', draft: post(formOf(), 'multipart/form-data; boundary=other') },
    { name: 'a form without a type', draft: post(formOf()) },
    { name: 'a type without a payload', draft: post({ type: 'none' }, 'application/json') },
    {
      name: 'a type with GET',
      draft: (origin: string): Draft => ({
        ...EMPTY_DRAFT,
        url: `${origin}/huts`,
        headers: [own('Content-Type', 'application/json')],
      }),
    },
    { name: 'a payload that was not recorded', draft: post({ type: 'unrecorded' }, 'application/json') },
    {
      name: 'a form with files',
      draft: post({ ...formOf(), parts: [...formOf().parts, ...FILES] }, 'multipart/form-data; boundary=xYzZY'),
    },
    ...[[], FILES.slice(0, 1)].map((files) => ({
      name: `variables in a form${files.length === 0 ? '' : ' beside a file'}`,
      draft: (origin: string): Draft => ({
        ...post(
          { type: 'parts', boundary: 'xYzZY', parts: [...formOf().parts, MARKED, ...files] },
          'multipart/form-data; boundary=xYzZY',
        )(origin),
        variables: [{ name: 'hut', value: 'alba\'"norte\\ü', isSecret: false }],
      }),
    })),
    {
      name: 'a form of attacks',
      draft: post(
        {
          type: 'parts',
          boundary: 'b',
          parts: ATTACKS.map((one, at) => ({
            name: `f${at}`,
            fileName: undefined,
            contentType: undefined,
            bytes: bytesFromText(one),
          })),
        },
        'multipart/form-data; boundary=b',
      ),
    },
  ];
}

const formOf = (): Extract<Draft['payload'], { readonly type: 'parts' }> => ({
  type: 'parts',
  boundary: 'xYzZY',
  parts: [
    { name: 'caption', fileName: undefined, contentType: undefined, bytes: bytesFromText('@"x";type=a') },
    { name: 'größe', fileName: undefined, contentType: undefined, bytes: bytesFromText('ü€😀') },
    { name: 'empty', fileName: undefined, contentType: undefined, bytes: new Uint8Array() },
  ],
});
const MARKED = {
  name: 'hut',
  fileName: undefined,
  contentType: undefined,
  bytes: bytesFromText('a ‹hut› ‹none›'),
};
const FILES = [
  { name: 'photo', fileName: 'mañana 日本.png', contentType: 'image/png', bytes: everyByte },
  { name: 'list', fileName: 'beds.json', contentType: 'application/json', bytes: bytesFromText('{"a":"it\'s"}') },
];

const field = (name: string, value: string): DraftPart => ({
  name,
  fileName: undefined,
  contentType: undefined,
  bytes: bytesFromText(value),
});
const fileOf = (name: string, fileName: string, contentType: string | undefined, value: string): DraftPart => ({
  ...field(name, value),
  fileName,
  contentType,
});
/** Parts that clients are tempted to write another way. */
const ODD_FORMS: Readonly<Record<string, readonly DraftPart[]>> = {
  'parts of one name': [
    field('hut', 'a'),
    field('hut', 'b'),
    fileOf('hut', 'c.txt', 'text/plain', 'c'),
    field('hut', 'd'),
  ],
  'line breaks in a field': [field('lf', 'a\nb'), field('crlf', 'a\r\nb'), field('cr', 'a\rb')],
  'an empty file': [fileOf('photo', 'empty.png', 'image/png', ''), field('a', '1')],
  'a file without a type': [fileOf('photo', 'a.bin', undefined, 'x')],
  'a field with a type': [{ ...field('data', '{"a":1}'), contentType: 'application/json' }],
  'a text file': [
    fileOf('list', 'list.csv', 'text/csv', 'a,b\nc,d\n'),
    fileOf('dos', 'dos.txt', 'text/plain', 'a\r\nb'),
  ],
  'odd names': [field('a"b', '1'), field("it's", '2'), field('a;b=c', '3'), field('user[name]', '4'), field('', '5')],
  'odd file names': [fileOf('f', 'a"b.txt', 'text/plain', 'x'), fileOf('g', "it's;x=1.txt", 'text/plain', 'y')],
  'backslashes in names': [field('a\\b', '1'), fileOf('f', 'c:\\d.txt', 'text/plain', 'x')],
  'a file named like an option': [fileOf('f', '-x', 'text/plain', 'x'), field('-y', '@z'), field('<w', '<v')],
  'nothing in it': [],
  'names of objects': [field('__proto__', '1'), field('constructor', '2'), field('0', '3'), field('toString', '4')],
};
