import { API, besideLoad, type Cause, call, code, failed, image, page, STATS, times, WWW } from './made';

const CORS: Readonly<Record<string, string>> = { origin: WWW, 'sec-fetch-mode': 'cors', 'sec-fetch-site': 'same-site' };
const calledHut = '/hut.json';

/** What browsers and other recorders write, and what it means. */
const NETWORK: readonly (readonly [name: string, failure: string, says: RegExp])[] = [
  ['a port at which nobody listens', 'net::ERR_CONNECTION_REFUSED', /the connection was refused$/],
  ['a connection that was reset', 'net::ERR_CONNECTION_RESET', /closed before a response had come$/],
  [
    'a connection that was aborted by the system, which is not the page’s doing',
    'net::ERR_CONNECTION_ABORTED',
    /closed before a response had come$/,
  ],
  ['a name that is not known', 'NS_ERROR_UNKNOWN_HOST', /host name could not be resolved/],
  ['a name server that does not answer', 'net::ERR_DNS_TIMED_OUT', /the DNS lookup timed out$/],
  ['no way there', 'net::ERR_ADDRESS_UNREACHABLE', /no route to the host$/],
  ['a recorder offline', 'net::ERR_INTERNET_DISCONNECTED', /was offline$/],
  ['a network that changed', 'net::ERR_NETWORK_CHANGED', /network changed meanwhile$/],
  ['a proxy that refuses', 'net::ERR_TUNNEL_CONNECTION_FAILED', /failed at the proxy$/],
  ['a protocol of TLS, which is no certificate', 'net::ERR_SSL_PROTOCOL_ERROR', /no common TLS version or cipher/],
  ['a certificate out of its dates', 'net::ERR_CERT_DATE_INVALID', /certificate has expired or is not valid yet$/],
  ['a certificate for another name', 'net::ERR_CERT_COMMON_NAME_INVALID', /for another name$/],
  ['a server that breaks HTTP/2', 'net::ERR_HTTP2_PROTOCOL_ERROR', /protocol error by the server$/],
  ['a redirect to nowhere', 'net::ERR_INVALID_REDIRECT', /that the browser does not follow$/],
  ['two lengths', 'net::ERR_RESPONSE_HEADERS_MULTIPLE_CONTENT_LENGTH', /contradict each other$/],
  ['an extension that blocks', 'net::ERR_BLOCKED_BY_CLIENT', /before it was sent, most likely by an extension$/],
  ['a policy of the page', 'net::ERR_BLOCKED_BY_CSP', /by the page’s Content-Security-Policy$/],
  [
    'a response of which the site lets no other site make use',
    'NS_ERROR_DOM_CORP_FAILED',
    /got a response, and its Cross-Origin-Resource-Policy/,
  ],
  ['a response that is opaque', 'net::ERR_BLOCKED_BY_ORB', /got a response, and the browser kept the response/],
  ['a port that browsers never open', 'net::ERR_UNSAFE_PORT', /do not connect to this port$/],
];

export const FAILURES: readonly Cause[] = [
  ...NETWORK.map(([name, failure, claims]) =>
    besideLoad(
      name,
      [failed(calledHut, 120, failure)],
      [{ rule: 'no-answer', about: [calledHut], claims, confidence: 'certain' }],
      { find: ['cross-origin'] },
    ),
  ),
  besideLoad(
    'the page gave a call up',
    [failed(calledHut, 120, 'NS_BINDING_ABORTED')],
    [{ rule: 'no-answer', about: [calledHut], severity: 'note', claims: /was cancelled in the browser$/ }],
  ),
  besideLoad(
    'a beacon ended with the page',
    [{ ...failed(`${STATS}/bye`, 590, 'net::ERR_FAILED'), kind: 'ping' }],
    [{ rule: 'no-answer', about: [`${STATS}/bye`], severity: 'note' }],
  ),
  besideLoad(
    'a call of one’s own origin failed without a word',
    [failed(calledHut, 120, 'net::ERR_FAILED')],
    [{ rule: 'no-answer', about: [calledHut], confidence: 'weak' }],
    { find: ['cross-origin'] },
  ),
  besideLoad(
    'calls to another origin failed without a word',
    times(3, (at) => failed(`${API}/${at}`, 120 + at, 'net::ERR_FAILED', { request: CORS })),
    [
      {
        rule: 'cross-origin',
        about: [`${API}/0`, `${API}/1`, `${API}/2`],
        claims: /possibly because CORS headers are missing$/,
        confidence: 'weak',
      },
    ],
    { find: ['no-answer'] },
  ),
  besideLoad(
    'a call to another origin failed, and who asked is known by the Referer alone',
    [failed(`${API}/beds`, 120, 'net::ERR_FAILED', { request: { referer: `${WWW}/huts` } })],
    [{ rule: 'cross-origin', about: [`${API}/beds`], confidence: 'weak' }],
  ),
  {
    name: 'the page’s own policy does not list where a call went',
    loaded: 600,
    ready: 300,
    exchanges: [
      page({
        response: { 'content-security-policy': "default-src 'self'; connect-src 'self' https://img.cumbrera.example" },
      }),
      failed(`${API}/beds`, 120, '', { request: CORS, failure: 'net::ERR_FAILED' }),
    ],
    must: {
      finds: [
        {
          rule: 'cross-origin',
          about: [`${API}/beds`],
          claims: /most likely blocked by the page’s Content-Security-Policy$/,
        },
      ],
    },
  },
  besideLoad(
    'a preflight returned 403',
    [
      {
        ...call(`${API}/beds`, 120),
        method: 'OPTIONS',
        kind: 'preflight',
        status: 403,
        request: { ...CORS, 'access-control-request-method': 'PUT' },
      },
      failed(`${API}/beds`, 119, 'net::ERR_FAILED', { method: 'PUT', request: CORS }),
    ],
    [{ rule: 'cross-origin', about: [`${API}/beds`], claims: /was refused: it returned 403$/ }],
    { find: ['no-answer', 'http-error'] },
  ),
  besideLoad(
    'a preflight lets through patch, and PATCH was asked for',
    [
      {
        ...call(`${API}/beds`, 120),
        method: 'OPTIONS',
        kind: 'preflight',
        status: 204,
        request: { ...CORS, 'access-control-request-method': 'PATCH' },
        response: { 'access-control-allow-origin': WWW, 'access-control-allow-methods': 'get, patch' },
      },
      failed(`${API}/beds`, 119, 'net::ERR_FAILED', { method: 'PATCH', request: CORS }),
    ],
    [{ rule: 'cross-origin', about: [`${API}/beds`], claims: /Access-Control-Allow-Methods lacks PATCH$/ }],
  ),
  besideLoad(
    'a preflight lets any header through, which is not Authorization',
    [
      {
        ...call(`${API}/beds`, 120),
        method: 'OPTIONS',
        kind: 'preflight',
        status: 204,
        request: {
          ...CORS,
          'access-control-request-method': 'GET',
          'access-control-request-headers': 'authorization,x-hut',
        },
        response: { 'access-control-allow-origin': '*', 'access-control-allow-headers': '*' },
      },
      failed(`${API}/beds`, 119, 'net::ERR_FAILED', { request: CORS }),
    ],
    [{ rule: 'cross-origin', about: [`${API}/beds`], claims: /Access-Control-Allow-Headers lacks authorization$/ }],
  ),
  besideLoad(
    'a preflight and its call went through',
    [
      {
        ...call(`${API}/beds`, 120),
        method: 'OPTIONS',
        kind: 'preflight',
        status: 204,
        request: { ...CORS, 'access-control-request-method': 'PUT' },
      },
      call(`${API}/beds`, 119, { method: 'PUT', request: CORS, wait: 40 }),
    ],
    [],
    { find: ['cross-origin'] },
  ),
  besideLoad(
    'a response came without leave',
    [call(`${API}/beds`, 120, { request: CORS, failure: 'CORS Missing Allow Origin', size: 0 })],
    [
      {
        rule: 'cross-origin',
        about: [`${API}/beds`],
        claims: /CORS kept the response from the page: it has no Access-Control-Allow-Origin$/,
        confidence: 'certain',
      },
    ],
  ),
  besideLoad(
    'a response with leave for all, though cookies were sent',
    [
      call(`${API}/beds`, 120, {
        request: { ...CORS, cookie: 'session=1' },
        response: { 'access-control-allow-origin': '*' },
        failure: 'NS_ERROR_DOM_BAD_URI',
        size: 0,
      }),
    ],
    [{ rule: 'cross-origin', about: [`${API}/beds`], claims: /which does not cover cookies$/ }],
  ),
  besideLoad(
    'a response without leave whose body was read is a recorder that leaves headers out',
    [call(`${API}/beds`, 120, { request: CORS, body: '{"beds":3}' })],
    [],
    { find: ['cross-origin'] },
  ),
  besideLoad(
    'an opaque response',
    [
      call(`${STATS}/visit`, 120, {
        request: { ...CORS, 'sec-fetch-mode': 'no-cors', 'sec-fetch-site': 'cross-site' },
        failure: 'net::ERR_ABORTED',
        size: 0,
      }),
    ],
    [{ rule: 'cut-short', about: [`${STATS}/visit`], severity: 'note', claims: /its page could not read it$/ }],
  ),
  besideLoad(
    'a coding that lies',
    [
      call(calledHut, 120, {
        failure: 'net::ERR_CONTENT_DECODING_FAILED',
        response: { 'content-encoding': 'gzip', 'content-length': '900' },
        size: 0,
        wire: 1000,
      }),
    ],
    [{ rule: 'unreadable', about: [calledHut], claims: /could not be decompressed$/ }],
    { find: ['cut-short'] },
  ),
  besideLoad(
    'a body that was cut off',
    [call(calledHut, 120, { response: { 'content-length': '20000' }, size: 9000, wire: 9200 })],
    [
      {
        rule: 'cut-short',
        about: [calledHut],
        claims: /was cut off: 9\.2 kB arrived on the wire, headers included, of 20 kB$/,
      },
    ],
    { find: ['unreadable'] },
  ),
  besideLoad(
    'text that has more letters than bytes promised is whole',
    [call(calledHut, 120, { response: { 'content-length': '9000' }, size: 8000, wire: 9200 })],
    [],
    { find: ['cut-short'] },
  ),
  besideLoad(
    'a body whose end its recorder did not keep',
    [code('/atlas.js', 120, { response: { 'content-length': '20000' }, size: 20_000, wire: 20_200, body: 'start(' })],
    [],
    { find: ['cut-short', 'unreadable'] },
  ),
  besideLoad(
    'a HEAD promises what it does not send',
    [call(calledHut, 120, { method: 'HEAD', response: { 'content-length': '20000' }, size: 0, wire: 200 })],
    [],
    { find: ['cut-short'] },
  ),
  besideLoad(
    'the page gave a body up',
    [
      call(calledHut, 120, {
        failure: 'net::ERR_ABORTED',
        response: { 'content-length': '20000' },
        size: 0,
        wire: 900,
      }),
    ],
    [
      {
        rule: 'cut-short',
        about: [calledHut],
        severity: 'note',
        claims: /was cancelled in the browser after its headers had arrived$/,
      },
    ],
  ),
  besideLoad(
    'plain http was blocked on a page of https',
    [{ ...failed('http://img.cumbrera.example/a.json', 120, 'mixed-content') }],
    [{ rule: 'no-answer', about: ['http://img.cumbrera.example/a.json'], claims: /plain http from an https page$/ }],
    { find: ['mixed-content'] },
  ),
  besideLoad(
    'plain http was raised to https before it was sent',
    [
      image('http://img.cumbrera.example/a.webp', 120, {
        status: 307,
        wait: 0,
        receive: 0,
        wire: 0,
        isLocal: true,
        response: { location: 'https://img.cumbrera.example/a.webp', 'non-authoritative-reason': 'HSTS' },
      }),
      image('https://img.cumbrera.example/a.webp', 122),
    ],
    [],
    { find: ['mixed-content'] },
  ),
];
