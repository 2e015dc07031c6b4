import { readdirSync, readFileSync, statSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import ts from 'typescript';
import { describe, expect, it } from 'vitest';

// How long the parts of the code are: what is longer than this is read by nobody.

const MOST_FILE_LINES = 400;
const MOST_FUNCTION_LINES = 60;
/** How a function that is longer says why, in a comment above it. */
const REASON = /\bLong because [a-z].{20,}/s;

const sources = (folder: string): string[] =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return sources(path);
    return /\.tsx?$/.test(name) && !/\.(test|d)\.tsx?$/.test(name) ? [path] : [];
  });

interface Long {
  readonly at: string;
  readonly lines: number;
  readonly reason: string | undefined;
}

function longFunctions(path: string): Long[] {
  const text = readFileSync(path, 'utf8');
  const file = ts.createSourceFile(path, text, ts.ScriptTarget.Latest, true);
  const lineOf = (at: number): number => file.getLineAndCharacterOfPosition(at).line;
  const found: Long[] = [];
  const visit = (node: ts.Node, commented: ts.Node): void => {
    // A function that is a value has its comment above the statement or the member that it is the value of.
    const own = ts.isStatement(node) || ts.isClassElement(node) || ts.isObjectLiteralElement(node) ? node : commented;
    if (ts.isFunctionLike(node) && 'body' in node && node.body !== undefined) {
      const lines = lineOf(node.end) - lineOf(node.getStart()) + 1;
      const comment = text.slice(own.getFullStart(), own.getStart());
      if (lines > MOST_FUNCTION_LINES)
        found.push({ at: `${path}:${lineOf(node.getStart()) + 1}`, lines, reason: REASON.exec(comment)?.[0] });
    }
    ts.forEachChild(node, (child) => visit(child, own));
  };
  visit(file, file);
  return found;
}

describe('the source', () => {
  it('has no file that is too long to be read', () => {
    const long = sources('src').map((path) => ({ path, lines: readFileSync(path, 'utf8').split('\n').length - 1 }));
    expect(long.filter(({ lines }) => lines > MOST_FILE_LINES)).toEqual([]);
  });

  it('has no function that is too long to be read without a reason beside it', () => {
    const unreasoned = sources('src')
      .flatMap(longFunctions)
      .filter(({ reason }) => reason === undefined)
      .sort((one, other) => other.lines - one.lines)
      .map(({ at, lines }) => `${lines} ${at}`);
    expect(unreasoned).toEqual([]);
  });

  it('has no files that import one another in a circle, be it for types alone', () => {
    const texts = new Map(sources('src').map((path) => [path, readFileSync(path, 'utf8')]));
    const importsOf = (path: string): string[] =>
      [...(texts.get(path) ?? '').matchAll(/(?:from|import\()\s*'([^']+)'/g)].flatMap(([, name = '']) => {
        const at = name.startsWith('#core/')
          ? `src/core/${name.slice(6)}/index`
          : name.startsWith('#server/')
            ? `src/server/${name.slice(8)}`
            : name.startsWith('.')
              ? normalize(join(dirname(path), name))
              : '';
        return [`${at}.ts`, `${at}.tsx`, `${at}/index.ts`].find((one) => texts.has(one)) ?? [];
      });
    const done = new Set<string>();
    const circles: string[] = [];
    const visit = (path: string, way: readonly string[]): void => {
      const before = way.indexOf(path);
      if (before !== -1) circles.push([...way.slice(before), path].join(' > '));
      if (before !== -1 || done.has(path)) return;
      for (const next of importsOf(path)) visit(next, [...way, path]);
      done.add(path);
    };
    for (const path of texts.keys()) visit(path, []);
    expect(circles).toEqual([]);
  });
});
