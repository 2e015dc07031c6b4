import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';
import { refuseRaw } from './plain-text';

/** What TLS begins with (RFC 8446 5.1). */
const TLS_HANDSHAKE = 22;
/** A tunnel through which nothing comes is closed. */
const SILENT_MS = 10_000;

const NO_TLS =
  'A rehearsal makes no tunnels for https: ask the captured host by http:// through it, or by the addresses that it was started with.';

/**
 * A tunnel (RFC 9110 9.3.6) to a captured host ends here: what comes through it in plain HTTP is answered as what comes
 * without. Some clients ask for one whatever the scheme, all of them for a socket.
 * @param server undefined where this end speaks TLS itself
 */
export function openTunnel(server: Server | undefined, { url }: IncomingMessage, socket: Duplex, rest: Buffer): void {
  if (server === undefined || /:443$/.test(url ?? '')) {
    refuseRaw(socket, 501, 'Not Implemented', NO_TLS);
    return;
  }
  // Who listened to its bytes so far listens anew.
  socket.removeAllListeners('data');
  const leave = (): void => void socket.destroy();
  const silent = setTimeout(leave, SILENT_MS);
  const begin = (first: Buffer): void => {
    clearTimeout(silent);
    socket.pause();
    if (first[0] === TLS_HANDSHAKE) {
      leave();
      return;
    }
    socket.unshift(first);
    server.emit('connection', socket);
    socket.resume();
  };
  socket.on('error', leave).once('close', () => clearTimeout(silent));
  socket.write('HTTP/1.1 200 Connection Established\r\n\r\n');
  if (rest.length > 0) begin(rest);
  else socket.once('data', begin);
}
