import type { JsonSteps } from './steps';
import { type JsonTree, keyOf, kindOf, membersOf, nodeText, readJsonTree } from './tree';

/** The value at a place, by its number in the tree; undefined where nothing is there. A name that comes twice counts as its last. */
export function findNode(tree: JsonTree, steps: JsonSteps): number | undefined {
  let node: number | undefined = tree.count === 0 ? undefined : 0;
  for (const step of steps) {
    if (node === undefined) return undefined;
    const isArray = kindOf(tree, node) === 'array';
    if (isArray !== (typeof step === 'number') || (!isArray && kindOf(tree, node) !== 'object')) return undefined;
    let found: number | undefined;
    for (const member of membersOf(tree, node)) if (keyOf(tree, member) === step) found = member;
    node = found;
  }
  return node;
}

/** The elements of the array at a place of a JSON text, each in its very characters; undefined where there is no array, or no whole JSON. */
export function arraySlices(text: string, steps: JsonSteps): string[] | undefined {
  const tree = readJsonTree(text);
  if (tree.problem !== undefined) return undefined;
  const node = findNode(tree, steps);
  if (node === undefined || kindOf(tree, node) !== 'array') return undefined;
  return [...membersOf(tree, node)].map((member) => nodeText(tree, member));
}

/** JSON without the blanks between its values, which keep their very characters. */
export const compactJson = (text: string): string => text.replace(/("(?:[^"\\]|\\.)*")|\s+/g, '$1');

/**
 * The cells of a row of JSON: a member each, those of objects in it under their dotted path; a value that is no object is
 * its own cell, called "value". Each in its very characters.
 */
export function cellsOf(row: string): Map<string, string> {
  const cells = new Map<string, string>();
  const tree = readJsonTree(row);
  const visit = (node: number, name: string): void => {
    if (kindOf(tree, node) !== 'object') {
      cells.set(name === '' ? 'value' : name, nodeText(tree, node));
      return;
    }
    for (const member of membersOf(tree, node)) {
      const key = String(keyOf(tree, member));
      visit(member, name === '' ? key : `${name}.${key}`);
    }
  };
  if (tree.count > 0) visit(0, '');
  return cells;
}
