import { createHash, hash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { Diagnoser, type DiagnosisTools, type KnownExchange } from '#core/diagnose';
import type { KnownBodies } from '#core/links';
import { inflateWithZlib } from './inflate';

/** As servers compress on the fly. */
const GZIP_LEVEL = 6;

/** What the diagnosis needs of Node. */
const TOOLS: DiagnosisTools = {
  hash: (bytes) => hash('sha256', bytes, 'base64').slice(0, 22),
  compressedLength: (bytes) => gzipSync(bytes, { level: GZIP_LEVEL }).length,
  digest: (algorithm, bytes) => createHash(algorithm).update(bytes).digest('base64'),
  inflate: inflateWithZlib,
};

/**
 * A diagnosis on Node.
 * @param known the exchanges as they are known without their bodies
 * @param knownBodies what bodies name that were read before
 */
export const beginReading = (known: readonly KnownExchange[], knownBodies?: KnownBodies): Diagnoser =>
  new Diagnoser(known, knownBodies === undefined ? TOOLS : { ...TOOLS, knownBodies });
