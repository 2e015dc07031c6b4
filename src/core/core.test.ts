import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

const sourcesIn = (folder: string): string[] =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return name === 'testing' ? [] : sourcesIn(path);
    return name.endsWith('.ts') && !name.endsWith('.test.ts') ? [path] : [];
  });

const sources = sourcesIn('src/core').map((path) => ({ path, text: readFileSync(path, 'utf8') }));
const folders = readdirSync('src/core').filter((name) => statSync(join('src/core', name)).isDirectory());

describe('the core', () => {
  it('reads no clock, no chance, no console and no locale of its own: what it needs is handed in', () => {
    const forbidden = /\bDate\.now\(|new Date\(\)|Math\.random\(|toLocale|Intl\.|crypto\./;
    // What conversion writes for others to run prints on their consoles.
    const isEmitted = (path: string): boolean => /convert\/(targets|writing|scripts)/.test(path);
    const breaks = ({ path, text }: { path: string; text: string }): boolean =>
      forbidden.test(text) || (!isEmitted(path) && /\bconsole\./.test(text));
    expect(sources.filter(breaks).map(({ path }) => path)).toEqual([]);
  });

  it.each(folders)('says in %s/index.ts what is public there', (folder) => {
    const index = readFileSync(join('src/core', folder, 'index.ts'), 'utf8');
    expect(index).toMatch(/^\/\/ /);
    expect(readFileSync('src/core/README.md', 'utf8')).toContain(`\`${folder}/\``);
  });
});
