import { explain } from '../entry';

/** Protocols and schemes by the names under which recorders and browsers write them. */
export const PROTOCOLS = explain('protocol', [
  ['HTTP/1.0', 'One request to a connection, unless both sides agree to keep it.', 'RFC 1945'],
  [
    'HTTP/1.1',
    'One request at a time on a connection; browsers keep up to six to a host.',
    'RFC 9112',
    ['http 1', 'six connections', 'head-of-line'],
  ],
  [
    'h2',
    'HTTP/2: many requests at once on one TCP connection; headers are compressed.',
    'RFC 9113',
    ['http2', 'http/2', 'multiplexing'],
  ],
  ['h2c', 'HTTP/2 without TLS. Browsers do not speak it.', 'RFC 9113 3.3', ['http2 cleartext']],
  [
    'h3',
    'HTTP/3: like HTTP/2 over QUIC; a lost packet delays only the stream that it belongs to.',
    'RFC 9114',
    ['http3', 'http/3', 'quic'],
  ],
  ['QUIC', 'The transport under HTTP/3, on UDP, with TLS 1.3 built in.', 'RFC 9000', ['udp', '0-rtt', 'h3']],
  [
    'ALPN',
    'During TLS the client lists its protocols and the server picks one: h2 or http/1.1.',
    'RFC 7301',
    ['negotiation'],
  ],
  ['TLS 1.2', 'Two round trips until the first request; one where a session is resumed.', 'RFC 5246', ['ssl']],
  [
    'TLS 1.3',
    'One round trip until the first request; none with early data.',
    'RFC 8446',
    ['ssl', '0-rtt', 'early data'],
  ],
  [
    'WebSocket',
    'Messages in both directions on a connection that begins as an HTTP request with 101.',
    'RFC 6455',
    ['ws', 'wss', 'socket'],
  ],
  [
    'server-sent events',
    'A response that stays open and carries messages, text/event-stream; the browser reconnects by itself.',
    'HTML, server-sent events',
    ['sse', 'eventsource', 'event stream', 'stream', 'text/event-stream'],
  ],
  ['data: URL', 'The content is in the URL itself; nothing is requested.', 'RFC 2397', ['inline', 'base64']],
  ['blob: URL', 'Content that the page made itself; nothing is requested.', 'File API', ['object url']],
]);
