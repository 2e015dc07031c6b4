import type { JsonTree } from '#core/json';

/** Rows that are shown before anything is unfolded. */
const FIRST_ROWS = 60;

/** Which containers are open at first: level by level, as long as all that is shown stays a screenful. */
export function openFirst(tree: JsonTree): ReadonlySet<number> {
  const open = new Set<number>([0]);
  let shown = 1 + (tree.sizes[0] ?? 0);
  let level = [0];
  while (level.length > 0) {
    const next = level.flatMap((node) => containersIn(tree, node, FIRST_ROWS));
    const grown = next.reduce((sum, node) => sum + (tree.sizes[node] ?? 0), shown);
    if (grown > FIRST_ROWS) return open;
    for (const node of next) open.add(node);
    shown = grown;
    level = next;
  }
  return open;
}

function containersIn(tree: JsonTree, node: number, most: number): number[] {
  const found: number[] = [];
  const end = tree.nexts[node] ?? 0;
  for (let at = node + 1; at < end && found.length <= most; at = tree.nexts[at] ?? end) {
    if ((tree.sizes[at] ?? 0) > 0) found.push(at);
  }
  return found;
}

/** Opens all that a value lies in. */
export function revealNode(tree: JsonTree, open: ReadonlySet<number>, node: number): ReadonlySet<number> {
  const next = new Set(open);
  for (let at = tree.parents[node] ?? -1; at !== -1; at = tree.parents[at] ?? -1) next.add(at);
  return next.size === open.size ? open : next;
}
