import { between } from './random';
import type { Handler } from './types';

// live.cumbrera.example: the weather as server-sent events, the bed counter as a socket.

export const answerLive: Handler = (request) => {
  if (request.path !== '/weather') return { status: 404, body: 'nothing is live here' };
  return {
    thinkMs: 40,
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'access-control-allow-origin': 'https://www.cumbrera.example',
    },
    events: {
      everyMs: 250,
      text: (count) =>
        `event: gust\nid: ${count}\ndata: ${JSON.stringify({ windKmh: between(`gust ${count}`, 10, 90) })}\n\n`,
    },
  };
};

/** What the bed counter says every time: beds left at a hut. */
export const bedMessage = (hut: string, count: number): string =>
  JSON.stringify({ hut, free: between(`${hut} live ${count}`, 0, 20), count });
