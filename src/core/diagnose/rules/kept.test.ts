import { expect, it } from 'vitest';
import { isFingerprinted } from './kept';

it.each([
  ['/assets/index-DIW9gTd0.js', true],
  ['/_astro/BriefCharts.BamX9Yy1.js', true],
  ['/_astro/hoisted.BvLkPHNq.js', true],
  ['/static/main.8c4f2d10.css', true],
  ['/img/logo.3f9a2b.svg?x=1', true],
  ['/a/chunk-3_aB9-xQ.js', true],
  ['/a.js?v=12', true],
  ['/media/face1.png', false],
  ['/img/cafe2.jpg', false],
  ['/img/decade.png', false],
  ['/img/20261003.png', false],
  ['/img/hut-1234567.png', false],
  ['/js/jquery.fancyBox.js', false],
  ['/js/app.MainViewModel2.js', false],
  ['/js/my-longModuleName.js', false],
  ['/fonts/Overpass-SemiBold.woff2', false],
  ['/js/index.js', false],
  ['/Beds-AlbaNorte.json', false],
])('%s names a version of itself: %s', (path, is) =>
  expect(isFingerprinted({ url: `https://a.example${path}` })).toBe(is),
);
