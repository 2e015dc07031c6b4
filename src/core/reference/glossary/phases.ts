import type { PhaseName } from '../../model';
import { PHASE_NAME } from '../../wording';
import type { Entry } from '../entry';

interface PhaseLine {
  readonly says: string;
  readonly also: readonly string[];
}

/** HAR's phases, by the names that the screen gives them. A phase without a line does not compile. */
const LINES: Record<PhaseName, PhaseLine> = {
  blockedMs: {
    says: 'In the browser, before anything went out: waiting for a free connection, behind more urgent requests, or for the cache.',
    also: ['queue', 'queued', 'queueing', 'waiting for a connection', 'blockedMs'],
  },
  dnsMs: {
    says: 'Looking up the address of the host. 0 or absent where it was known already.',
    also: ['dns lookup', 'name resolution', 'dnsMs'],
  },
  connectMs: {
    says: 'Making the connection, by TCP or QUIC; about one round trip. HAR counts TLS in, here it is kept apart.',
    also: ['tcp', 'tcp handshake', 'initial connection', 'connectMs'],
  },
  tlsMs: {
    says: 'Agreeing on encryption and checking the certificate; about one round trip with TLS 1.3, two with 1.2. In HAR: ssl.',
    also: ['ssl', 'secure connection', 'handshake', 'sslMs', 'tlsMs'],
  },
  sendMs: {
    says: 'Writing the request to the connection. Long only for large payloads.',
    also: ['request sent', 'upload', 'sendMs'],
  },
  waitMs: {
    says: 'From the request being sent to the first byte of the response: one round trip and the time that the server, or a worker or cache before it, took.',
    also: ['server time', 'waiting', 'server response time', 'latency', 'waitMs'],
  },
  receiveMs: {
    says: 'From the first byte of the response to its last: the transfer, and pauses of the server in it.',
    also: ['download', 'content download', 'transfer', 'receiveMs'],
  },
};

export const PHASES: readonly Entry[] = [
  ...Object.entries(LINES).map(
    ([name, { says, also }]): Entry => ({
      topic: 'phase',
      name: PHASE_NAME[name as PhaseName],
      says,
      section: 'HAR 1.2, timings',
      also,
    }),
  ),
  {
    topic: 'phase',
    name: 'time to first byte',
    says: 'Send and wait together: from the connection being ready to the first byte of the response. Blocked and connection set-up come before it and are not in it.',
    section: 'HAR 1.2, timings',
    also: ['ttfb', 'first byte'],
  },
  {
    topic: 'phase',
    name: 'connection set-up',
    says: 'DNS, connect and TLS together. Only the first request on a connection has it; the others reuse the connection.',
    section: 'HAR 1.2, timings',
    also: ['setup', 'set up', 'keep-alive', 'connection reuse'],
  },
];
