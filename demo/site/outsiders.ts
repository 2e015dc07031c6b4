import { font, mapTile } from './media';
import { type Handler, jsonAnswer } from './types';
import { weatherOf } from './world';

// What the pages fetch from others: fonts, counters, maps and weather.

/** type.letterpile.example: a style that names the fonts, and the fonts. */
export const answerFonts: Handler = async (request) => {
  const open = { 'access-control-allow-origin': '*', 'timing-allow-origin': '*' };
  if (request.path === '/overland.css') {
    const faces = [400, 600, 700].map(
      (weight) =>
        `@font-face{font-family:Overland;font-weight:${weight};font-display:swap;src:url(/overland-${weight}.ttf) format("truetype")}`,
    );
    return {
      thinkMs: 70,
      compress: true,
      body: faces.join('\n'),
      headers: {
        ...open,
        'content-type': 'text/css; charset=utf-8',
        'cache-control': 'private, max-age=86400, stale-while-revalidate=604800',
      },
    };
  }
  const weight = /^\/overland-(400|600|700)\.ttf$/.exec(request.path)?.[1];
  if (weight === undefined) return { status: 404, body: 'no such font' };
  return {
    thinkMs: 35,
    body: await font(Number(weight)),
    headers: { ...open, 'content-type': 'font/ttf', 'cache-control': 'public, max-age=31536000, immutable' },
  };
};

const TALLY_SCRIPT = `(function(){
  var base='https://stats.tallyfox.example';
  var visit='v-'+Math.abs(Date.now()%1e9).toString(36);
  fetch(base+'/settings.json?site=cumbrera').then(function(r){return r.json()}).then(function(s){
    if(!s.on)return;
    new Image().src=base+'/dot.gif?visit='+visit+'&page='+encodeURIComponent(location.pathname);
    addEventListener('load',function(){navigator.sendBeacon(base+'/collect',JSON.stringify({visit:visit,loaded:Math.round(performance.now())}))});
  });
})();`;

const DOT = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

/** stats.tallyfox.example: a counter's script, its settings, its dot, and where it reports to. */
export const answerCounters: Handler = (request) => {
  const open = { 'access-control-allow-origin': '*' };
  switch (request.path) {
    case '/tally.js':
      return {
        thinkMs: 160,
        body: TALLY_SCRIPT,
        headers: {
          ...open,
          'content-type': 'text/javascript',
          expires: new Date(Date.now() + 300_000).toUTCString(),
          etag: '"tally-7"',
        },
      };
    case '/settings.json':
      return jsonAnswer(
        { on: true, sample: 1 },
        {
          thinkMs: 90,
          headers: {
            ...open,
            'cache-control': 'no-store',
            'set-cookie': 'fox=f-90211; Secure; SameSite=None; Max-Age=31536000',
          },
        },
      );
    case '/dot.gif':
      return {
        thinkMs: 40,
        body: DOT,
        headers: { ...open, 'content-type': 'image/gif', 'cache-control': 'no-cache, no-store', pragma: 'no-cache' },
      };
    case '/collect':
      return { status: 204, thinkMs: 30, headers: open };
    default:
      return { status: 404, body: 'nothing here' };
  }
};

/** sky.topolines.example: map tiles and hourly weather. */
export const answerMaps: Handler = async (request) => {
  const open = { 'access-control-allow-origin': '*' };
  const tile = /^\/tiles\/12\/(\d+)\/(\d+)\.png$/.exec(request.path);
  if (tile !== null) {
    const body = await mapTile(Number(tile[1]), Number(tile[2]));
    const kept = {
      'cache-control': 'public, max-age=3600, s-maxage=86400',
      age: '1840',
      'x-cache': 'HIT',
      via: '1.1 topolines-edge',
    };
    return { thinkMs: 30, body, headers: { ...open, ...kept, 'content-type': 'image/png' } };
  }
  if (request.path === '/weather/hourly') {
    const place = request.query.get('place') ?? '';
    const headers = {
      ...open,
      'cache-status': 'topolines-edge; fwd=miss; stored',
      'cache-control': 'max-age=120, stale-if-error=3600',
    };
    return jsonAnswer(weatherOf(place), { thinkMs: 150, compress: 'gzip only', headers });
  }
  return { status: 404, body: 'off the map' };
};
