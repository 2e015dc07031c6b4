import { describe, expect, it } from 'vitest';
import { exchangeIndex, type Kind } from '../model';
import { linksInCss } from './css';
import { candidatesOf, linksInHtml } from './html';
import { type Carrier, KnownBodies, LinkFinder, type LinkTarget } from './index';
import { linksInJson } from './json';
import { linksInHeader } from './link-header';
import type { Named, Tell } from './named';
import { linksInScript } from './script';

const told = (read: (tell: Tell) => unknown): string[] => {
  const found: Named[] = [];
  read((named) => void found.push(named));
  return found.map((named) => {
    if (named.type === 'link') return `${named.base} ${named.url}`;
    return named.type === 'quoted' ? `quoted ${named.text}` : `pattern ${named.pieces.join('*')}`;
  });
};

describe('how a body has something loaded', () => {
  const manners = (read: (tell: Tell) => unknown): string[] => {
    const found: string[] = [];
    read((named) => void (named.type === 'link' && found.push(`${named.url} ${named.manner}`)));
    return found;
  };

  it('is told of tags, of links by their relation, of Link headers and of imports', () => {
    const html = `<script src=a.js></script><script async src=b.js></script><script type=module src=c.js></script>
      <link rel="preload stylesheet" href=d.css><link rel="shortcut icon" href=e.png><link rel=prefetch href=f.js>
      <link rel=modulepreload href=g.js><img loading=lazy src=h.png><img src=i.png><iframe loading=LAZY src=j.html></iframe>
      <link rel=manifest href=k.json><link rel=canonical href=l>`;
    expect(manners((tell) => linksInHtml(html, tell))).toEqual([
      'a.js parsed',
      'b.js async',
      'c.js parsed',
      'd.css parsed',
      'e.png icon',
      'f.js prefetch',
      'g.js preload',
      'h.png lazy',
      'i.png undefined',
      'j.html lazy',
      'k.json icon',
      'l undefined',
    ]);
    expect(manners((tell) => linksInHeader('</m.css>; rel=stylesheet, </n.js>; rel=preload', tell))).toEqual([
      '/m.css parsed',
      '/n.js preload',
    ]);
    const script = `import { x } from './o.js'; import './p.js'; export * from './q.js'; const r = import('./r.js');`;
    expect(manners((tell) => linksInScript(script, tell))).toEqual([
      './o.js imported',
      './p.js imported',
      './q.js imported',
      './r.js on-demand',
    ]);
  });
});

describe('addresses in a page', () => {
  it('are those that a browser would load, decoded, those of inline styles and scripts too', () => {
    const html = `<link rel=preload href="/a.css?x=1&amp;y=2"><IMG SRC='b.png' srcset="c.png 1x, d.png 2x">
      <!-- <img src=no.png> --><style>h1{background:url(e.png)}</style><script>fetch('/f.json')</script>
      <div style="background:url('g.png')" data-src="/h.png"><svg><use href="i.svg#x"/></svg>
      <script type=importmap>{"imports":{"m":"/j.js"}}</script>`;
    expect(told((tell) => linksInHtml(html, tell))).toEqual([
      'page /a.css?x=1&y=2',
      'page b.png',
      'page c.png',
      'page d.png',
      'page e.png',
      'quoted /f.json',
      'page g.png',
      'quoted /h.png',
      'page i.svg#x',
      'quoted /j.js',
    ]);
  });

  it('are those of a page inside it, and of modules in it against its base', () => {
    const html = `<iframe srcdoc="<img src='/a.png'>"></iframe><script type=module>import './b.js'; import('./c.js')</script>`;
    expect(told((tell) => linksInHtml(html, tell))).toEqual(['page /a.png', 'page ./b.js', 'page ./c.js']);
  });

  it('are not followed without end through pages in pages', () => {
    const within = (page: string): string =>
      `<iframe srcdoc="${page.replaceAll('&', '&amp;').replaceAll('"', '&quot;')}">`;
    const deep = (levels: number): string => (levels === 0 ? '<img src=/a.png>' : within(deep(levels - 1)));
    const named = [3, 4].map((levels) => told((tell) => linksInHtml(deep(levels), tell)));
    expect(named).toEqual([['page /a.png'], []]);
  });

  it('are resolved against the first base', () => {
    expect(linksInHtml('<base href="/x/"><base href="/y/">', () => undefined).base).toBe('/x/');
  });

  it.each([
    ['a.png, b.png 2x', ['a.png', 'b.png']],
    ['a.png 480w,b.png 960w', ['a.png', 'b.png']],
    ['data:image/gif;base64,R0lG 1x, b.png', ['data:image/gif;base64,R0lG', 'b.png']],
    ['  ', []],
  ])('of the srcset %j are %j', (srcset, urls) => expect(candidatesOf(srcset)).toEqual(urls));
});

describe('addresses elsewhere', () => {
  it('in a style are in url(), @import and image-set, not in comments and other strings', () => {
    const css = `/* url(no.png) */ @import "a.css"; @font-face{src:url( "b.woff2" ) format("woff2")}
      i{background:image-set("c.png" 1x, url(d.png) 2x);content:"no.png"} j{background:url(e\\ f.png)}
      k{background:url("g\\\n.png")}`;
    expect(told((tell) => linksInCss(css, tell))).toEqual([
      'self a.css',
      'self b.woff2',
      'self c.png',
      'self d.png',
      'self e f.png',
      'self g.png',
    ]);
  });

  it('in a script are imports, quoted paths, and templates and sums with the script’s own constants', () => {
    const script = `import { a } from './a.js'; // './no.js'
      const API = 'https://api.example'; const view = () => import('./b.js');
      fetch(\`\${API}/huts/\${id}/beds\`); fetch(API + '/session'); load('/photos/c.webp'); say('no address');`;
    expect(told((tell) => linksInScript(script, tell))).toEqual([
      'self ./a.js',
      'self ./b.js',
      'pattern https://api.example/huts/*/beds',
      'quoted https://api.example/session',
      'quoted /photos/c.webp',
    ]);
  });

  it('in JSON are its strings, not its names', () => {
    expect(told((tell) => linksInJson('{"/no":"/a.png","b":["c.png","word"]}', tell))).toEqual([
      'quoted /a.png',
      'quoted c.png',
    ]);
  });

  it('in a Link header are those that are loaded', () => {
    expect(told((tell) => linksInHeader('</a.css>; rel=preload; as=style, </b>; rel="next"', tell))).toEqual([
      'self /a.css',
    ]);
  });
});

const page = 'https://www.a.example/huts/';
const target = (index: number, url: string, kind: Kind, startMs: number, answeredMs: number): LinkTarget => ({
  index: exchangeIndex(index),
  page: 'p',
  url,
  kind,
  startMs,
  answeredMs,
});
const TARGETS = [
  target(0, page, 'document', 0, 10),
  target(1, 'https://www.a.example/js/main.js', 'script', 20, 30),
  target(2, 'https://www.a.example/js/lib/beds.js', 'script', 40, 50),
  target(3, 'https://api.a.example/huts/alba/beds?day=3', 'data', 60, 70),
  target(4, 'https://img.a.example/tiles/3/4.png', 'image', 80, 90),
];
const carry = (index: number, text: string, language?: string): Carrier => ({
  index: exchangeIndex(index),
  shape: language === undefined ? 'html' : 'code',
  language,
  text,
  key: undefined,
  linkHeaders: [],
});

describe('who names whom', () => {
  const find = (...carriers: Carrier[]) => {
    const finder = new LinkFinder(TARGETS);
    for (const carrier of carriers) finder.look(carrier);
    return finder.references();
  };

  it('is told by the whole address, a relative one, an import against the script, and a template', () => {
    const { named, asked } = find(
      carry(0, '<script src="../js/main.js"></script>'),
      carry(
        1,
        // biome-ignore lint/suspicious/noTemplateCurlyInString: it is a script's text.
        "import './lib/beds.js'; const tile = (x, y) => `https://img.a.example/tiles/${x}/${y}.png`",
        'javascript',
      ),
      // biome-ignore lint/suspicious/noTemplateCurlyInString: as above.
      carry(2, "const API='https://api.a.example'; fetch(`${API}/huts/${hut}/beds?day=${day}`)", 'javascript'),
    );
    expect([...named]).toEqual([
      [1, 0],
      [2, 1],
      [4, 1],
      [3, 2],
    ]);
    // An image that a script puts into the page is asked for by the page.
    expect(asked.has(exchangeIndex(4))).toBe(false);
  });

  it('is told of each capture by its own addresses where a body was read in another one before', () => {
    const known = new KnownBodies();
    const text = '<base href="/js/"><script src="main.js"></script>';
    const namedIn = (host: string, read = text): number[] => {
      const targets = TARGETS.map((one) => ({ ...one, url: one.url.replace('www.a.example', host) }));
      const finder = new LinkFinder(targets, known);
      finder.look({ ...carry(0, read), key: 'hash text/html' });
      return [...finder.references().named.keys()];
    };
    expect([namedIn('www.a.example'), namedIn('b.example')]).toEqual([[1], [1]]);
    // It is not read again.
    expect(namedIn('c.example', '')).toEqual([1]);
  });

  it('is the longest spelling, and never what answered later', () => {
    const { named } = find(
      carry(0, '<script>load("beds.js")</script>'),
      carry(1, "load('/js/lib/beds.js')", 'javascript'),
      carry(3, '<script src="/js/lib/beds.js"></script>'),
    );
    expect(named.get(exchangeIndex(2))).toBe(1);
  });
});
