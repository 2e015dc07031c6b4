import { closeSync, mkdtempSync, openSync, readFileSync, readSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { analyse, type ExchangeFacts, takeFacts } from '#core/analysis';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import { migrateDatabase, openConnection } from '#server/db/connection';
import { Turns } from '#server/db/turns';
import { importApart } from '#server/ingest/import-apart';

// One measured task in a process of its own, so that its peak memory is its own. Prints {ms, peakMb}.

const CHUNK_BYTES = 1024 * 1024;

type CleanUp = (() => void) | undefined;

/** Does the work and returns the clean-up that is not to be measured. */
const TASKS: Record<string, (path: string) => CleanUp | Promise<CleanUp>> = {
  /** The baseline: the whole file as one string, parsed. */
  parse: (path) => {
    JSON.parse(readFileSync(path, 'utf8'));
    return undefined;
  },
  /** Reading: bytes to spans to the model to the analysis, a chunk at a time. */
  read: (path) => {
    const facts: ExchangeFacts[] = [];
    const reader = new HarReader({
      onEntry: ({ value, place }) => {
        if (isObject(value)) facts.push(takeFacts(normaliseEntry(value, place)));
      },
    });
    const file = openSync(path, 'r');
    for (;;) {
      const chunk = Buffer.allocUnsafe(CHUNK_BYTES);
      const length = readSync(file, chunk, 0, CHUNK_BYTES, null);
      if (length === 0) break;
      reader.push(chunk.subarray(0, length));
    }
    closeSync(file);
    const { capture } = reader.end();
    analyse(facts, capture.pages, capture.completeness);
    return undefined;
  },
  /** Importing: the same, into the database, as the app does: one thread reads while another writes. */
  import: async (path) => {
    const folder = mkdtempSync(join(tmpdir(), 'trazado-bench-'));
    const connection = openConnection(folder, true);
    migrateDatabase(connection);
    const order = { captureId: 'bench', path, name: 'bench', sha256: 'bench', fileBytes: statSync(path).size, now: 0 };
    await importApart(connection, order, new SharedArrayBuffer(4), new Turns(), () => undefined);
    // Committed: from here on it is on the shelf, and the log is copied into the database behind its back.
    return () => {
      connection.sqlite.close();
      rmSync(folder, { recursive: true });
    };
  },
};

const [, , name = '', path = ''] = process.argv;
const task = TASKS[name];
if (task === undefined) throw new Error(`There is no task "${name}".`);
const started = performance.now();
const cleanUp = await task(path);
const ms = performance.now() - started;
cleanUp?.();
console.log(JSON.stringify({ ms, peakMb: process.resourceUsage().maxRSS / 1000 }));
