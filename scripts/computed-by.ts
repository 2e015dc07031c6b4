import { createHash } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const ROOT = fileURLToPath(new URL('..', import.meta.url));

/** What is kept in the database as it was computed, and the code that computes it from an entry on. */
export const COMPUTED = {
  analysis: `
    export { analyse, takeFacts } from './src/core/analysis';
    export { normaliseEntry, normalisePage } from './src/core/har';
  `,
  findings: `export { beginReading } from './src/server/diagnose';`,
} as const;
export type Computed = keyof typeof COMPUTED;

/**
 * A hash of all code by which something is computed: without comments, without what is not used for it, and whatever its
 * local names are. The packages that it uses are named in it, not read.
 */
export async function hashOfCode(what: Computed): Promise<string> {
  const { outputFiles } = await build({
    stdin: { contents: COMPUTED[what], resolveDir: ROOT, loader: 'ts' },
    bundle: true,
    write: false,
    minify: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    packages: 'external',
    // The numbers themselves are no part of what they are the numbers of.
    external: ['*/versions.json'],
    logLevel: 'silent',
  });
  return createHash('sha256')
    .update(outputFiles[0]?.text ?? '')
    .digest('hex')
    .slice(0, 16);
}
