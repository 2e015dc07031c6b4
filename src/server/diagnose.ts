import { createHash, hash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import type { ExchangeRow } from '#core/analysis';
import { Diagnoser, type DiagnosisTools } from '#core/diagnose';
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

/** A diagnosis on Node. @param rows the exchanges as they are known without their bodies */
export const beginReading = (rows: readonly ExchangeRow[]): Diagnoser => new Diagnoser(rows, TOOLS);
