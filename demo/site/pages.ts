import type { Release } from './types';
import { HUTS, type Hut } from './world';

const IMG = 'https://img.cumbrera.example/photos';

const frame = (title: string, head: string, body: string): string => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<title>${title}</title>
<meta name="viewport" content="width=device-width">
<link rel="icon" href="/logo.svg">
${head}
</head>
<body>
<header><a href="/"><img src="/logo.svg" alt="Cumbrera" width="160" height="40"></a></header>
${body}
<footer>Cumbrera keeps the lamps lit. All huts, wardens and ridges are made up.</footer>
</body>
</html>
`;

export const homePage = (_release: Release): string =>
  frame(
    'Cumbrera: beds above the clouds',
    '<link rel="stylesheet" href="/assets/base.9f2c.css">',
    `<main><h1>Beds above the clouds</h1><ul>${HUTS.map((hut) => `<li><a href="/huts/${hut.slug}">${hut.name}</a></li>`).join('')}</ul></main>`,
  );

const headOf = (release: Release): string =>
  release === 'first'
    ? `<script src="https://stats.tallyfox.example/tally.js"></script>
<link rel="stylesheet" href="https://type.letterpile.example/overland.css">
<link rel="stylesheet" href="/assets/base.9f2c.css">
<script src="/assets/atlas.41ab.js"></script>
<script type="module" async src="/assets/js/main.js"></script>`
    : `<link rel="preload" as="image" href="${IMG}/alba-norte-ridge-960.webp" fetchpriority="high">
<link rel="preconnect" href="https://api.cumbrera.example" crossorigin>
<link rel="stylesheet" href="/assets/all.77d0.css">
<link rel="modulepreload" href="/assets/js/api.js">
<link rel="modulepreload" href="/assets/js/views.js">
<script defer src="/assets/atlas.41ab.js"></script>
<script type="module" src="/assets/js/main-fixed.js"></script>
<script async src="https://stats.tallyfox.example/tally.js"></script>`;

export function hutPage(hut: Hut, release: Release): string {
  const others = HUTS.filter((other) => other.slug !== hut.slug);
  const shown = release === 'first' ? others : others.slice(0, 12);
  const width = release === 'first' ? 480 : 240;
  const card = (other: Hut): string =>
    `<li><a href="/huts/${other.slug}"><img src="${IMG}/${other.slug}-ridge-${width}.webp" alt="${other.name}" width="240" height="135"${release === 'fixed' ? ' loading="lazy"' : ''}>${other.name}, ${other.altitudeM} m</a><p>${other.story}</p></li>`;
  const hero =
    release === 'fixed' ? `<img src="${IMG}/alba-norte-ridge-960.webp" alt="The ridge" width="960" height="540">` : '';
  return frame(
    `${hut.name}: beds and weather`,
    headOf(release),
    `<main data-hut="${hut.slug}">
<h1>${hut.name}</h1><p>${hut.story}</p>
<section id="hero">${hero}</section>
<section id="gallery">${['stove', 'bunks', 'terrace'].map((view) => `<img src="${IMG}/${hut.slug}-${view}-480.webp" alt="${view}" width="480" height="270">`).join('')}</section>
<section id="nights"></section><section id="weather"></section><section id="map"></section><section id="notices"></section>
<h2>Huts around</h2><ul id="huts">${shown.map(card).join('')}</ul>
</main>`,
  );
}

export const bookingPage = (): string =>
  frame(
    'Book a bed at Alba Norte',
    `<link rel="stylesheet" href="/assets/base.9f2c.css">
<script type="module" src="/assets/js/booking.js"></script>`,
    `<main><h1>Book a bed at Alba Norte</h1>
<form id="booking" method="post" action="/book/alba-norte">
<label>Name <input name="name" value="Ines O'Farrow"></label>
<label>Nights <input name="nights" value="3"></label>
<label>Wishes <textarea name="wishes">a lower bunk; "no snorers" &amp; 50 % less wind</textarea></label>
<button>Book</button></form>
<img src="${IMG}/alba-norte-lost-480.webp" alt="the terrace" width="480" height="270">
<output id="log"></output></main>`,
  );

export const thanksPage = (): string =>
  frame(
    'Your bed is held',
    '<link rel="stylesheet" href="/assets/base.9f2c.css">',
    '<main><h1>Your bed is held</h1><p>The warden expects you before the lamps are lit.</p></main>',
  );
