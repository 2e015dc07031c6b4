import { createHash } from 'node:crypto';
import { beforeAll, expect, it } from 'vitest';
import { type Answers, hostsOf, html } from './answers';
import { type Recorded, record } from './scene';

// What a browser does with scripts and styles of any type, and of any digest that a page demands: one that was not used is
// told of, and of one that was used nobody says that it was not.

type Element = 'script' | 'module' | 'style';
interface Case {
  readonly element: Element;
  readonly host: 'www' | 'img';
  readonly type?: string;
  readonly sniff?: string;
  /** What the page demands of the file's text. */
  readonly integrity?: (text: string) => string;
  /** The element says crossorigin, and the server allows it. */
  readonly isByCors?: boolean;
}

const TYPES = [
  ...[
    'text/javascript',
    'TEXT/JavaScript; charset=utf-8',
    'application/x-javascript',
    'text/jscript',
    'text/javascript1.5',
  ],
  ...[
    'text/javascript2',
    'application/jscript',
    'text/plain',
    'application/json',
    'text/css',
    'text/css;charset=utf-8',
  ],
  ...['text/css2', 'application/octet-stream', 'image/png', 'text/csv', 'video/mp4', 'application/xml', 'text', '*/*'],
  ...['text/css, text/css', 'text/javascript, text/plain', 'text/plain, text/css', 'text/javascript;', '', undefined],
];
const SNIFFS = ['NoSniff', 'nosniff, x', 'x, nosniff', 'nosniffx', '', 'nosniff; x'];

const bodyOf = (element: Element, at: number): string =>
  element === 'style' ? `#t${at} { margin-left: 77px }` : `window.ran[${at}] = true`;
const digestOf = (algorithm: 'sha256' | 'sha384' | 'sha512', text: string): string =>
  `${algorithm}-${createHash(algorithm).update(text).digest('base64')}`;
const OTHER = digestOf('sha256', 'another file');

/** Digests by the text that a page has for them; `own` is right. */
const INTEGRITIES: readonly ((text: string) => string)[] = [
  (text) => digestOf('sha256', text),
  (text) => digestOf('sha512', text),
  () => OTHER,
  (text) => `${OTHER} ${digestOf('sha256', text)}`,
  (text) => `${digestOf('sha256', text)} ${digestOf('sha512', 'another file')}`,
  (text) => `${OTHER} ${digestOf('sha384', text)}`,
  (text) => digestOf('sha256', text).toUpperCase().replace('SHA256', 'sha256'),
  (text) => digestOf('sha256', text).replace('sha256', 'SHA256'),
  (text) => digestOf('sha256', text).replaceAll('+', '-').replaceAll('/', '_'),
  (text) => `${digestOf('sha256', text)}?ct=text/javascript`,
  (text) => digestOf('sha256', text).replace(/=+$/, ''),
  () => 'md5-AAAA',
  () => 'sha256',
  () => 'sha256-',
  () => `sha1-AAAA ${OTHER}`,
  () => 'nothing that is one',
  (text) => `  ${digestOf('sha256', text)}\t`,
  (text) => `${digestOf('sha256', text)},${OTHER}`,
];

const TYPE_OF: Record<Element, string> = { script: 'text/javascript', module: 'text/javascript', style: 'text/css' };
const CASES: readonly Case[] = (['script', 'style', 'module'] as const).flatMap((element) => [
  ...(element === 'module' ? (['www'] as const) : (['www', 'img'] as const)).flatMap((host) =>
    TYPES.flatMap((type) =>
      [undefined, 'nosniff'].map((sniff) => ({
        element,
        host,
        ...(type === undefined ? {} : { type }),
        ...(sniff === undefined ? {} : { sniff }),
      })),
    ),
  ),
  ...SNIFFS.map((sniff): Case => ({ element, host: 'www', type: 'text/plain', sniff })),
  ...INTEGRITIES.flatMap((integrity, at): Case[] => {
    const demanding = { element, type: TYPE_OF[element], integrity } as const;
    const elsewhere = [true, false].map((isByCors): Case => ({ ...demanding, host: 'img', isByCors }));
    return [{ ...demanding, host: 'www' }, ...(at < 3 && element !== 'module' ? elsewhere : [])];
  }),
]);
const ORIGIN = { www: 'https://www.cumbrera.example', img: 'https://img.cumbrera.example' };
const pathOf = ({ element }: Case, at: number): string => `/${at}.${element === 'style' ? 'css' : 'js'}`;

function tagOf(one: Case, at: number): string {
  const address = `${ORIGIN[one.host]}${pathOf(one, at)}`;
  const demands = one.integrity === undefined ? '' : ` integrity="${one.integrity(bodyOf(one.element, at))}"`;
  const more = `${demands}${one.isByCors === true ? ' crossorigin' : ''}`;
  if (one.element === 'style') return `<link rel="stylesheet" href="${address}"${more}>`;
  return `<script${one.element === 'module' ? ' type="module"' : ''} src="${address}"${more}></script>`;
}

const ANSWERS: Answers = Object.fromEntries(
  CASES.map((one, at) => [
    `${one.host}.cumbrera.example${pathOf(one, at)}`,
    {
      body: bodyOf(one.element, at),
      headers: {
        ...(one.type === undefined ? {} : { 'content-type': one.type }),
        ...(one.sniff === undefined ? {} : { 'x-content-type-options': one.sniff }),
        ...(one.isByCors === true ? { 'access-control-allow-origin': ORIGIN.www } : {}),
      },
    },
  ]),
);

let scene: Recorded;
let used: readonly boolean[];
beforeAll(async () => {
  scene = await record({
    site: {
      handlers: hostsOf({
        ...ANSWERS,
        'www.cumbrera.example/': html(
          `<script>window.ran = {}</script>${CASES.map(tagOf).join('\n')}<body>${CASES.map((_, at) => `<i id="t${at}"></i>`).join('')}`,
        ),
      }),
    },
    visit: async ({ page }) => {
      await page.goto('https://www.cumbrera.example/', { waitUntil: 'load' });
      used = await page.evaluate(
        (elements) =>
          elements.map((element, at) => {
            const mark = document.getElementById(`t${at}`);
            if (element === 'style') return mark !== null && getComputedStyle(mark).marginLeft === '77px';
            return (window as unknown as { ran: Record<number, boolean> }).ran[at] === true;
          }),
        CASES.map(({ element }) => element),
      );
    },
  });
});

// A browser records nothing of a response that it refused before its page could see it: then only that is told.
const TOLD_BY = new Set(['unreadable', 'no-answer']);

it('tells of each script and style that the browser does not use, once, and of none that it uses', () => {
  const wrong = CASES.flatMap((one, at) => {
    const claims = scene
      .findingsAbout(`${one.host}.cumbrera.example${pathOf(one, at)}`)
      .filter(({ rule, confidence }) => TOLD_BY.has(rule) && confidence !== 'weak')
      .map(({ claim }) => claim);
    const isUsed = used[at] === true;
    const { type, sniff } = one;
    return claims.length === (isUsed ? 0 : 1) ? [] : [{ tag: tagOf(one, at), type, sniff, isUsed, claims }];
  });
  expect(wrong).toEqual([]);
  const count = used.filter(Boolean).length;
  expect(count).toBeGreaterThan(CASES.length / 4);
  expect(count).toBeLessThan((CASES.length * 3) / 4);
});
