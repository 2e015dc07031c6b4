import { lookup } from 'node:dns';
import { request as requestHttp } from 'node:http';
import { connect as connectPlain, isIP, type LookupFunction, type Socket } from 'node:net';
import { connect as connectSecurely, rootCertificates, type TLSSocket } from 'node:tls';
import type { Place, SendBounds } from './bounds';
import type { WireRequest } from './message';
import { isPrivate } from './private';

/** The steps of setting a connection up, as they are noted. */
export interface SetUp {
  readonly onFound: () => void;
  readonly onConnected: (socket: Socket) => void;
  /** It is there, TLS and all. */
  readonly onReady: (socket: Socket | TLSSocket) => void;
  readonly onError: (error: Error) => void;
  /** A name led into a private network, and was not followed. */
  readonly onRefused: (address: string) => void;
  /** Each socket as it is opened, to be destroyed with the rest. */
  readonly onSocket: (socket: Socket) => void;
}

/** Opens a connection to a place, through a proxy where there is one, with TLS where the request wants it. */
export function openConnection(wire: WireRequest, place: Place, bounds: SendBounds, setUp: SetUp): void {
  const { proxy } = bounds;
  if (proxy !== undefined && wire.isSecure) {
    tunnel(proxy, place, setUp, (socket) => secure(wire, { socket }, bounds, setUp));
    return;
  }
  const where = proxy ?? place;
  if (bounds.refusesPrivate === true && proxy === undefined && isIP(where.host) > 0 && isPrivate(where.host)) {
    setUp.onRefused(where.host);
    return;
  }
  const checked =
    bounds.refusesPrivate === true && proxy === undefined ? { lookup: lookupPublic(setUp.onRefused) } : {};
  // Names below localhost are this computer, whether its resolver knows it or not (RFC 6761 6.3).
  const host = /\.localhost$/i.test(where.host) ? 'localhost' : where.host;
  const to = { host, port: where.port, ...checked };
  if (wire.isSecure) secure(wire, to, bounds, setUp);
  else
    follow(connectPlain(to), setUp).once('connect', function (this: Socket) {
      setUp.onReady(this);
    });
}

/** A socket whose look-up, connection and failure are noted. */
function follow<S extends Socket>(socket: S, { onFound, onConnected, onError, onSocket }: SetUp): S {
  onSocket(socket);
  socket.on('lookup', onFound);
  socket.once('connect', () => onConnected(socket));
  socket.on('error', onError);
  return socket;
}

function secure(
  wire: WireRequest,
  over: { readonly socket: Socket } | { readonly host: string; readonly port: number },
  bounds: SendBounds,
  setUp: SetUp,
): void {
  const socket = connectSecurely({
    ...over,
    ALPNProtocols: bounds.wantsHttp2 === true ? ['h2', 'http/1.1'] : ['http/1.1'],
    servername: isIP(wire.host) === 0 ? wire.host : '',
    rejectUnauthorized: !bounds.ignoresCertificate,
    ...(bounds.certificate === undefined ? {} : { ca: [...rootCertificates, bounds.certificate] }),
  });
  follow(socket, setUp).once('secureConnect', () => setUp.onReady(socket));
}

/** A way through a proxy to a place (RFC 9110 9.3.6). */
function tunnel(proxy: Place, place: Place, setUp: SetUp, onOpen: (socket: Socket) => void): void {
  const authority = `${place.host.includes(':') ? `[${place.host}]` : place.host}:${place.port}`;
  const asking = requestHttp({
    ...proxy,
    method: 'CONNECT',
    path: authority,
    headers: { host: authority },
    agent: false,
  });
  asking.on('socket', (socket: Socket) => follow(socket, setUp));
  asking.on('connect', (response, socket) => {
    if (response.statusCode === 200) onOpen(socket);
    else
      setUp.onError(Object.assign(new Error('refused by the proxy'), { code: 'EPROXY', status: response.statusCode }));
  });
  asking.on('error', setUp.onError);
  asking.end();
}

/** Looks names up and hands on public addresses alone: what is looked at is what is connected to. */
const lookupPublic =
  (refuse: (address: string) => void): LookupFunction =>
  (hostname, options, done) => {
    lookup(hostname, { ...options, all: true }, (error, found) => {
      const list = found ?? [];
      const inside = list.find(({ address }) => isPrivate(address));
      if (inside !== undefined) refuse(inside.address);
      const failure = inside === undefined ? error : Object.assign(new Error('private'), { code: 'EPRIVATE' });
      const [first] = list;
      if (options.all === true) done(failure, list);
      else done(failure, first?.address ?? '', first?.family);
    });
  };
