import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The folder of this package, found from wherever this file runs: the sources, or a bundle under dist/. */
export function findPackageRoot(): string {
  let folder = dirname(fileURLToPath(import.meta.url));
  for (;;) {
    const manifest = join(folder, 'package.json');
    if (existsSync(manifest) && JSON.parse(readFileSync(manifest, 'utf8')).name === 'trazado') return folder;
    const parent = dirname(folder);
    if (parent === folder) throw new Error('Trazado cannot find its own package folder: install it again.');
    folder = parent;
  }
}
