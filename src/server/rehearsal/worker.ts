import { parentPort, workerData } from 'node:worker_threads';
import { originOf, shownOrigin } from '#core/rehearse';
import { openConnection } from '../db/connection';
import { log } from '../log';
import { ownPlaces } from '../send/own-places';
import { certify } from './certify';
import { forwarder } from './forward';
import { KeptAsked } from './kept-asked';
import type { Begun, FromRehearsalWorker, RehearsalWorkerData, ToRehearsalWorker } from './protocol';
import { recordingInStore } from './recording';
import { RehearsalServer } from './rehearsal-server';

// The thread of a rehearsal: whatever is asked of it, the server's own thread keeps answering.

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const { dataFolder, captureId, order } = workerData as RehearsalWorkerData;
const tell = (message: FromRehearsalWorker): void => port.postMessage(message);

const TELL_EVERY_MS = 200;

async function begin(): Promise<void> {
  const connection = openConnection(dataFolder, true);
  const places = order.places === undefined ? undefined : new Set(order.places);
  const recording = recordingInStore(connection, captureId, places);
  const kept = new KeptAsked();
  const origins = new Set(recording.requests.flatMap(({ url }) => originOf(url) ?? []));
  const server = new RehearsalServer({
    recording,
    order,
    certify,
    onAsked: (isMissed, record) => kept.add(isMissed, record),
    ...(order.forwards ? { forward: forwarder(origins, ownPlaces()) } : {}),
  });
  const { port: at, addresses, certificate } = await server.listen(0, '127.0.0.1');
  const begun: Begun = {
    port: at,
    addresses: addresses.origins.map((origin) => ({
      captured: shownOrigin(origin),
      local: addresses.localOrigin(origin) ?? '',
    })),
    pageUrl: recording.mainUrl === undefined ? undefined : addresses.localUrl(recording.mainUrl),
    certificate,
  };
  tell({ type: 'listening', ...begun });
  const flush = (): void => {
    const batch = kept.take();
    if (batch !== undefined) tell({ type: 'asked', ...batch });
  };
  const timer = setInterval(flush, TELL_EVERY_MS);
  port.on('message', ({ does }: ToRehearsalWorker) => {
    if (does === 'rewind') {
      server.rewind();
      return;
    }
    void server.close().then(() => {
      clearInterval(timer);
      flush();
      tell({ type: 'ended' });
      connection.sqlite.close();
      port.close();
    });
  });
}

begin().catch((error: unknown) => {
  log.error({ err: error }, 'a rehearsal could not begin');
  tell({ type: 'failed', sentence: `It could not begin: ${error instanceof Error ? error.message : String(error)}.` });
  port.close();
});
