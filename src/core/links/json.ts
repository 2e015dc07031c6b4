import { plainValue, readJsonTree } from '../json';
import { couldBeAddress, type Tell } from './named';

/** Larger documents are data, not lists of what to load next. */
const READ_CHARS = 2_000_000;
const STRING_KIND = 2;

/** The strings in a JSON text that can be addresses: of manifests, import maps, answers that name what comes next. */
export function linksInJson(text: string, tell: Tell): void {
  const tree = readJsonTree(text.slice(0, READ_CHARS));
  for (let node = 0; node < tree.count; node++) {
    if (tree.kinds[node] !== STRING_KIND) continue;
    const value = plainValue(tree, node);
    if (couldBeAddress(value)) tell({ type: 'quoted', text: value });
  }
}
