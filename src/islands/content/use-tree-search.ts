import { useMemo, useState } from 'react';
import { type JsonTree, nodeAt } from '#core/json';
import { formatCount } from '#core/wording';

/** More are not walked through one by one. */
const MOST_FOUND = 5000;

interface TreeSearch {
  readonly text: string;
  readonly setText: (text: string) => void;
  /** Goes to the next value that holds the text, or with -1 to the one before. */
  readonly step: (by: 1 | -1) => void;
  /** How many there are and which one is shown. */
  readonly words: string;
}

/** Search inside a tree, in names and values, without regard to case. */
export function useTreeSearch(tree: JsonTree, goTo: (node: number) => void): TreeSearch {
  const [text, setText] = useState('');
  const [at, setAt] = useState(-1);
  // Made once it is searched in: of ten million characters it takes some thirty milliseconds.
  const lower = useMemo(() => ({ text: undefined as string | undefined, tree }), [tree]);
  const nodes = useMemo(() => {
    if (text === '') return [];
    lower.text ??= lower.tree.text.toLowerCase();
    return findNodes(lower.tree, lower.text, text.toLowerCase());
  }, [lower, text]);
  return {
    text,
    setText: (next) => {
      setText(next);
      setAt(-1);
    },
    step: (by) => {
      if (nodes.length === 0) return;
      const next = at === -1 ? (by === 1 ? 0 : nodes.length - 1) : (at + by + nodes.length) % nodes.length;
      setAt(next);
      const node = nodes[next];
      if (node !== undefined) goTo(node);
    },
    words: wordsFor(text, nodes.length, at),
  };
}

function wordsFor(text: string, count: number, at: number): string {
  if (text === '') return '';
  const all = count >= MOST_FOUND ? `${formatCount(MOST_FOUND)} or more` : formatCount(count);
  if (count === 0) return 'no matches';
  return at === -1 ? `${all}, Enter for the first` : `${formatCount(at + 1)} of ${all}`;
}

function findNodes(tree: JsonTree, lower: string, wanted: string): number[] {
  const nodes: number[] = [];
  for (let at = lower.indexOf(wanted); at !== -1 && nodes.length < MOST_FOUND; ) {
    const node = nodeAt(tree, at);
    if (node !== undefined && nodes.at(-1) !== node) nodes.push(node);
    at = lower.indexOf(wanted, at + wanted.length);
  }
  return nodes;
}
