import { createServer as createProxy } from 'node:http';
import { createServer } from 'node:https';
import { connect } from 'node:net';
import { generate } from 'selfsigned';
import { expect } from 'vitest';
import { listen, RUN_ALONE, runAlone } from './testing/alone';
import { RUNNERS, type RunnerId } from './testing/runners';
import { itNeeding, withTls } from './testing/tools';

// Leave to take any certificate, in code that runs, against a server whose certificate nobody vouches for: given, the request
// gets through or it is said that it does not; not given, it never does.

const CERTIFICATE = generate([{ name: 'commonName', value: 'localhost' }]);

/** Whether a request reached the server, straight or through a proxy, and whether it is said that it may not. */
async function triedBy(id: RunnerId, ignoresCertificate: boolean, isProxied: boolean) {
  const { private: key, cert } = await CERTIFICATE;
  let isReached = false;
  const server = createServer({ key, cert }, (_, response) => {
    isReached = true;
    response.end('{"ok":true}');
  });
  server.on('tlsClientError', () => undefined);
  const port = await listen(server);
  const proxy = createProxy();
  proxy.on('connect', (_, socket) => {
    const onwards = connect(port, '127.0.0.1', () => {
      socket.write('HTTP/1.1 200 Connection Established\r\n\r\n');
      onwards.pipe(socket).pipe(onwards);
    });
    for (const one of [onwards, socket]) one.on('error', () => one.destroy());
  });
  const way = isProxied ? { proxy: `http://127.0.0.1:${await listen(proxy)}` } : {};
  try {
    const { warnings } = await runAlone(id, { url: `https://localhost:${port}/here` }, { ignoresCertificate, ...way });
    return { isReached, isWarned: /certificate/i.test(warnings) };
  } finally {
    server.close();
    server.closeAllConnections();
    proxy.close();
  }
}

for (const id of RUN_ALONE)
  itNeeding(withTls(RUNNERS[id].needs), { concurrent: true })(
    `${id} takes any certificate where it is to, or says that it does not, and else none`,
    async () => {
      expect((await triedBy(id, false, false)).isReached).toBe(false);
      for (const isProxied of [false, true]) {
        const { isReached, isWarned } = await triedBy(id, true, isProxied);
        expect(isReached).toBe(!isWarned);
      }
    },
    600_000,
  );
