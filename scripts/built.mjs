// Whether the build is of the sources as they are now. No dependencies: it is asked before there are any.
import { existsSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const MARK = join(root, 'dist/.built');

const BUILT_FROM = [
  'src',
  'demo/site',
  'scripts/build-node.mjs',
  'astro.config.mjs',
  'package-lock.json',
  'package.json',
];
/** Tests and what only they use are no part of a build. */
const IS_OF_TESTS = /\.test\.tsx?$|\/testing\//;

const NONE = { path: '', at: 0 };
const newer = (one, other) => (other.at > one.at ? other : one);

/** Path and time of what was changed last under a path: a file, or a folder that one was removed from or added to. */
function newestIn(path) {
  if (IS_OF_TESTS.test(`${path}/`) || IS_OF_TESTS.test(path) || !existsSync(path)) return NONE;
  const stat = statSync(path);
  const own = { path, at: stat.mtimeMs };
  if (!stat.isDirectory()) return own;
  return readdirSync(path)
    .map((name) => newestIn(join(path, name)))
    .reduce(newer, own);
}

/** A source that is newer than the last build that succeeded; undefined where none is. */
export function findUnbuilt() {
  const builtAt = existsSync(MARK) ? statSync(MARK).mtimeMs : 0;
  const newest = BUILT_FROM.map((path) => newestIn(join(root, path))).reduce(newer, NONE);
  return newest.at > builtAt ? newest.path : undefined;
}

/** Says that a build has succeeded. */
export const markBuilt = () => writeFileSync(MARK, '');
