// Raises the version of what is computed by code that has changed: what an older version computed is computed again.
import { readFileSync, writeFileSync } from 'node:fs';
import { COMPUTED, type Computed, hashOfCode } from './computed-by';

const PATH = new URL('../src/core/versions.json', import.meta.url);

const kept = JSON.parse(readFileSync(PATH, 'utf8')) as Record<Computed, { version: number; code: string }>;
for (const what of Object.keys(COMPUTED) as Computed[]) {
  const code = await hashOfCode(what);
  if (code === kept[what].code) continue;
  kept[what] = { version: kept[what].version + 1, code };
  console.log(`${what}: ${kept[what].version}`);
}
writeFileSync(PATH, `${JSON.stringify(kept, null, 2)}\n`);
