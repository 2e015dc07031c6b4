import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { type Browser, chromium } from '@playwright/test';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Carrier, LinkFinder } from '#core/links';
import type { ExchangeIndex, Kind } from '#core/model';
import { chromiumOptions } from '../../e2e/support/chromium';

// Whatever a real browser asks for is found in what named it, however that is written. HOST stands for the server.

const LINK =
  '</hdr1.css>; rel=preload; as=style, </hdr2.js>;rel="preload";as="script", </hdr3.css>; rel=stylesheet, </hdr4.js>; as=script; rel=modulepreload, </hdr5.png>; REL=PRELOAD; as=image; title="a, <b>"';
const STYLE = String.raw`@import "i1.css"; @import url(i2.css) screen; @import url("i3.css") layer(a);
  body { background: url( 'bg 1.png' ), url(bg2.png), image-set("bg3.png" 1x, url(bg4.png) 2x) }
  .a { background: url(b\67 5.png) } .b { content: url("c\
1.png") } .q { background: url("q?a=1&b=2.png") } .v { --v: url(var.png); background: var(--v) }
  @font-face { font-family: x; src: url(f.woff2) } .f { font-family: x } #m { mask: url(mask.svg#a) }
  .i { border: 3px solid; border-image: url(bi.png) 1 } .s { shape-outside: url(sh.png); float: left }`;
const TEMPLATE = ['`/api/t/$', '{w}/x`'].join('');
const SCRIPT = String.raw`import './im1.js'; import("./im2.js"); const w = 'dyn'; import('/base/' + 'im3.js'); new Worker('/base/w.js');
  fetch('/api/huts?page=' + 2); fetch(new URL('/api/url', location)); fetch(${TEMPLATE}); navigator.sendBeacon('/api/beacon');
  new Image().src = "/base/img\u002ejs.png"; fetch('\x2fapi\x2fhex'); fetch('/api'.concat('/joined')); fetch(['', 'api', 'list'].join('/'));
  const o = { path: '/api/obj' }; fetch(o.path); new EventSource('/api/stream'); fetch('//HOST/api/proto'); fetch("/api/esc\/slash")`;
const PAGE = String.raw`<!doctype html><html><head><base href="/base/"><link rel=icon href="data:,">
  <link rel=stylesheet href="s1.css"><link rel="preload stylesheet" href=' s2.css ' as=style><LINK REL=StyleSheet HREF="S3.css?a=1&amp;b=2#f">
  <link rel="alternate stylesheet" title=x href=alt.css><link rel=preload as=image href="pre.png"><link rel=modulepreload href=mod.js>
  <link rel=preload as=image imagesrcset="pre1.png 1x, pre2.png 2x"><link rel=prefetch href=pf.js><style>${STYLE}</style>
  <script src="a.js"></script><script src="&#98;.js"></script><script src="c%20d.js"></script><script src="e f.js"></script>
  <script src="../up.js"></script><script src="./dot/../d.js"></script><script src="\back\slash.js"></script><script src="?only=query"></script>
  <script src="/tab	new
line.js"></script><script type=module>${SCRIPT}</script></head><body>
  ${['a', 'b', 'f', 'q', 'v', 'i', 's'].map((name) => `<div class=${name}>x</div>`).join('')}<div id=m>x</div>
  <div style="background:url('in&amp;line.png')">x</div><div style='background:url(&quot;in2.png&quot;)'>y</div>
  <img src=img1.png><img srcset="ss1.png 1x,ss2.png 2x"><img srcset="a,b.png 1x"><img srcset=" ss5.png 100w, ss6.png 200w" sizes=100px>
  <picture><source srcset="p1.png" media="(min-width:1px)"><img src=p2.png></picture><img src="http://HOST/full.png"><img src="http:rel.png">
  <picture><source srcset="p.avif" type="image/nothing"><img src=p3.png></picture><img src=" sp.png "><img loading=lazy src=lazy.png>
  <video src=v.mp4 poster=poster.png></video><audio src=a.mp3></audio><video><source src=v2.mp4><track default src=t.vtt></video>
  <iframe src=frame.html></iframe><embed src=embed.svg><object data=obj.svg></object><input type=image src=inp.png>
  <svg width=9 height=9><image href=svgimg.png /><image xlink:href=svgimg2.png /><use href="use.svg#a"/></svg>
  <table background=tb.png><tr><td background=td.png>x</table><iframe srcdoc="<img src='/base/srcdoc.png'>"></iframe></body></html>`;
const STYLES: Readonly<Record<string, string>> = {
  '/base/s1.css': '@charset "utf-8"; @import "../c1.css"; .a { border-image: url("//HOST/c3.png") 1 }',
  '/c1.css': '@import url(deep/c4.css);',
};
const TYPES: Readonly<Record<string, string>> = {
  css: 'text/css',
  js: 'text/javascript',
  html: 'text/html',
  svg: 'image/svg+xml',
};
const KINDS: Readonly<Record<string, Kind>> = { css: 'style', js: 'script', png: 'image', svg: 'image', woff2: 'font' };
const endingOf = (path: string): string => /\.(\w+)$/.exec(path)?.[1] ?? '';

let server: Server;
let browser: Browser;
let host: string;
const asked = new Set<string>();
beforeAll(async () => {
  server = createServer(({ url = '/' }, response) => {
    asked.add(url);
    const path = url.split('?')[0] ?? '';
    const own = path === '/' ? PAGE : (STYLES[path] ?? '');
    response.setHeader('content-type', path === '/' ? 'text/html' : (TYPES[endingOf(path)] ?? 'application/x-huts'));
    if (path === '/') response.setHeader('link', LINK);
    response.end(own.replaceAll('HOST', host));
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  browser = await chromium.launch(chromiumOptions);
  const page = await browser.newPage();
  await page.goto(`http://${host}/`);
  await page.waitForLoadState('networkidle');
});
afterAll(async () => {
  await browser.close();
  server.close();
});

it('everything that a browser asked for is found where it is named', () => {
  const targets = [...asked].map((url, at) => {
    const path = url.split('?')[0] ?? '';
    const kind: Kind = at === 0 ? 'document' : (KINDS[endingOf(path)] ?? (path.startsWith('/api') ? 'data' : 'other'));
    return {
      index: at as ExchangeIndex,
      page: 'p',
      url: `http://${host}${url}`,
      kind,
      startMs: at,
      answeredMs: at + 0.5,
    };
  });
  const finder = new LinkFinder(targets);
  for (const { index, url } of targets) {
    const isPage = index === 0;
    const text = (isPage ? PAGE : STYLES[new URL(url).pathname])?.replaceAll('HOST', host);
    const read: Pick<Carrier, 'shape' | 'language'> = isPage
      ? { shape: 'html', language: 'xml' }
      : { shape: 'code', language: 'css' };
    if (text !== undefined) finder.look({ index, ...read, text, key: undefined, linkHeaders: isPage ? [LINK] : [] });
  }
  const { named } = finder.references();
  expect(targets.filter(({ index }) => index !== 0 && !named.has(index)).map(({ url }) => url)).toEqual([]);
  expect(targets.length).toBeGreaterThan(70);
});
