import { chromium } from '@playwright/test';
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
const U = 'http://localhost:4611/';
const p0 = await b.newPage();
await p0.goto(U); await p0.locator('[data-capture]').first().waitFor();
const href = await p0.locator('[data-capture="alba-norte-first-visit"] a').first().getAttribute('href');
const C = U.replace(/\/$/, '') + href!.replace(/\/brief.*/, '');
const A = encodeURIComponent('GET api.cumbrera.example/huts/alba-norte/availability');
const views: Record<string, string> = { shelf: U, brief: `${C}/brief`, find: `${C}/find?search=34.00`, endpoints: `${C}/endpoints?endpoint=${A}`, drafts: `${C}/drafts`, reference: `${C}/reference?term=cache`, lanes: `${C}/waterfall?lanes=connection`, dossier: `${C}/waterfall?exchange=77&dossier` };
const [, , w, h, scheme, ...names] = process.argv;
const cols = Number(w) <= 640 ? 2 : 1;
const shots: string[] = [];
for (const name of names) {
  const p = await b.newPage({ viewport: { width: Number(w), height: Number(h) }, colorScheme: scheme as 'dark' });
  await p.goto(views[name]!); await p.waitForTimeout(1800);
  shots.push((await p.screenshot()).toString('base64'));
  await p.close();
}
const m = await b.newPage({ viewport: { width: Number(w) * cols + 10, height: Math.ceil(names.length / cols) * (Number(h) + 8) } });
await m.setContent(`<body style="margin:0;background:#888;display:grid;grid-template-columns:repeat(${cols},${w}px);gap:8px">${shots.map((s) => `<img src="data:image/png;base64,${s}">`).join('')}</body>`);
await m.screenshot({ path: '/tmp/sheet.png' });
await b.close();
