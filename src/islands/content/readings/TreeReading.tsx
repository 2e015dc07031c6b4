import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { type JsonTree, keyOf, nodeAt, previewOf, visibleNodes } from '#core/json';
import { formatCount } from '#core/wording';
import type { HitTarget } from '../../state/hit';
import { FoldMark } from '../../ui/FoldMark';
import { openFirst, revealNode } from '../fold';
import { NodeDetail } from '../NodeDetail';
import { ReadingNote } from '../ReadingNote';
import { useTreeSearch } from '../use-tree-search';

interface TreeReadingProps {
  readonly tree: JsonTree;
  /** What was found in it, to be shown first. */
  readonly hit: HitTarget | undefined;
}

const ROW_PX = 18;
/** Fewer values are seen at a glance. */
const SEARCHED_FROM = 12;
const MOST_HEIGHT_PX = 432;
const VALUE_CHARS = 400;
const PREVIEW_CHARS = 120;
/** Deeper levels are not moved further in: hostile nesting would push everything out of sight. */
const MOST_INDENTED = 24;

/** What of a tree is unfolded, where the cursor is in it, and how it is gone through. */
function useTree(tree: JsonTree, hit: TreeReadingProps['hit']) {
  const scroller = useRef<HTMLDivElement>(null);
  const [open, setOpen] = useState<ReadonlySet<number> | 'all'>(() => openFirst(tree));
  const [cursor, setCursor] = useState(0);
  const found = useMemo(() => (hit === undefined ? undefined : nodeAt(tree, hit.offset)), [tree, hit]);
  const nodes = useMemo(() => visibleNodes(tree, (node) => open !== 'all' && !open.has(node)), [tree, open]);
  const virtual = useVirtualizer({
    count: nodes.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  const [wanted, setWanted] = useState<number | undefined>(undefined);
  const goToNode = (node: number): void => {
    setOpen((before) => (before === 'all' ? before : revealNode(tree, before, node)));
    setCursor(node);
    setWanted(node);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another hit moves the cursor.
  useEffect(() => {
    if (found !== undefined) goToNode(found);
  }, [found]);
  useEffect(() => {
    if (wanted === undefined) return;
    const at = nodes.indexOf(wanted);
    if (at !== -1) virtual.scrollToIndex(at, { align: 'auto' });
    setWanted(undefined);
  }, [wanted, nodes, virtual]);
  const turn = (node: number, isOpen: boolean): void => {
    setOpen((before) => {
      const next = new Set(before === 'all' ? containersOf(tree) : before);
      if (isOpen) next.add(node);
      else next.delete(node);
      return next;
    });
  };
  const isOpen = (node: number): boolean => open === 'all' || open.has(node);
  return { scroller, nodes, virtual, cursor, setCursor, found, goToNode, turn, isOpen, setOpen };
}

/** JSON as a tree: folding, the path under the cursor, values and paths to copy, search inside. */
export function TreeReading({ tree, hit }: TreeReadingProps) {
  const { scroller, nodes, virtual, cursor, setCursor, found, goToNode, turn, isOpen, setOpen } = useTree(tree, hit);
  const search = useTreeSearch(tree, goToNode);
  const onKeyDown = (event: KeyboardEvent): void => {
    const at = nodes.indexOf(cursor);
    const step = treeStep(event.key, { tree, nodes, at, cursor, isOpen: isOpen(cursor) });
    if (step === undefined || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    if (step.type === 'turn') turn(cursor, step.isOpen);
    else goToNode(step.node);
  };
  if (tree.count === 0) return <ReadingNote isProblem>{problemWords(tree)}</ReadingNote>;
  return (
    <div>
      {tree.problem === undefined ? null : <ReadingNote isProblem>{problemWords(tree)}</ReadingNote>}
      {tree.count < SEARCHED_FROM ? null : <TreeBar count={tree.count} search={search} onFold={setOpen} />}
      <div
        ref={scroller}
        role="tree"
        aria-label="JSON"
        tabIndex={0}
        aria-activedescendant={`json-node-${cursor}`}
        onKeyDown={onKeyDown}
        style={{ height: Math.min(MOST_HEIGHT_PX, nodes.length * ROW_PX + 10) }}
        className="overflow-auto border border-line bg-paper py-1 font-mono text-[12px]"
      >
        <div role="none" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const node = nodes[item.index] ?? 0;
            return (
              <TreeRow
                key={node}
                tree={tree}
                node={node}
                topPx={item.start}
                isOpen={isOpen(node)}
                isCurrent={node === cursor}
                isFound={node === found}
                onPick={() => setCursor(node)}
                onTurn={() => turn(node, !isOpen(node))}
              />
            );
          })}
        </div>
      </div>
      <NodeDetail tree={tree} node={cursor} />
    </div>
  );
}

interface TreeBarProps {
  readonly count: number;
  readonly search: ReturnType<typeof useTreeSearch>;
  readonly onFold: (open: ReadonlySet<number> | 'all') => void;
}

/** Above a large tree: a search in it, and folding as a whole. */
function TreeBar({ count, search, onFold }: TreeBarProps) {
  return (
    <p className="mb-1 flex items-center gap-2 text-[12px] text-soft">
      <input
        type="search"
        aria-label="Search this JSON"
        placeholder="search this JSON"
        value={search.text}
        onChange={({ target }) => search.setText(target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') search.step(event.shiftKey ? -1 : 1);
        }}
        className="w-40 border border-line bg-paper px-1.5 py-0.5 text-ink"
      />
      <span role="status">{search.words}</span>
      <span className="ml-auto">{formatCount(count)} values</span>
      <button type="button" className="underline hover:text-ink" onClick={() => onFold('all')}>
        unfold all
      </button>
      <button type="button" className="underline hover:text-ink" onClick={() => onFold(new Set([0]))}>
        fold all
      </button>
    </p>
  );
}

function problemWords({ problem, count }: JsonTree): string {
  if (problem === undefined) return '';
  const where = `line ${formatCount(problem.line)}, character ${formatCount(problem.offset + 1)} of the text`;
  return count === 0
    ? `Invalid JSON at ${where}: expected ${problem.expected}.`
    : `The JSON is damaged at ${where}: ${problem.expected} was expected there. What came before is shown.`;
}

function containersOf(tree: JsonTree): number[] {
  const all: number[] = [];
  for (let node = 0; node < tree.count; node++) if ((tree.sizes[node] ?? 0) > 0) all.push(node);
  return all;
}

interface StepFrom {
  readonly tree: JsonTree;
  readonly nodes: Uint32Array;
  readonly at: number;
  readonly cursor: number;
  readonly isOpen: boolean;
}

/** Where a key leads in the tree, as the tree pattern of WAI-ARIA has it. */
function treeStep(
  key: string,
  { tree, nodes, at, cursor, isOpen }: StepFrom,
): { readonly type: 'turn'; readonly isOpen: boolean } | { readonly type: 'go'; readonly node: number } | undefined {
  const size = tree.sizes[cursor] ?? 0;
  const go = (place: number) => {
    const node = nodes[Math.max(0, Math.min(nodes.length - 1, place))];
    return node === undefined ? undefined : ({ type: 'go', node } as const);
  };
  switch (key) {
    case 'ArrowDown':
      return go(at + 1);
    case 'ArrowUp':
      return go(at - 1);
    case 'Home':
      return go(0);
    case 'End':
      return go(nodes.length - 1);
    case 'ArrowRight':
      if (size === 0) return undefined;
      return isOpen ? go(at + 1) : { type: 'turn', isOpen: true };
    case 'ArrowLeft': {
      if (size > 0 && isOpen) return { type: 'turn', isOpen: false };
      const parent = tree.parents[cursor] ?? -1;
      return parent === -1 ? undefined : { type: 'go', node: parent };
    }
    case 'Enter':
    case ' ':
      return size === 0 ? undefined : { type: 'turn', isOpen: !isOpen };
    default:
      return undefined;
  }
}

interface TreeRowProps {
  readonly tree: JsonTree;
  readonly node: number;
  readonly topPx: number;
  readonly isOpen: boolean;
  readonly isCurrent: boolean;
  readonly isFound: boolean;
  readonly onPick: () => void;
  readonly onTurn: () => void;
}

function TreeRow({ tree, node, topPx, isOpen, isCurrent, isFound, onPick, onTurn }: TreeRowProps) {
  const size = tree.sizes[node] ?? 0;
  const key = keyOf(tree, node);
  const depth = depthOf(tree, node);
  const isContainer = (tree.kinds[node] ?? 2) < 2;
  return (
    // biome-ignore lint/a11y/useKeyWithClickEvents: the tree itself has the keys.
    <div
      id={`json-node-${node}`}
      role="treeitem"
      tabIndex={-1}
      aria-level={depth + 1}
      aria-expanded={size > 0 ? isOpen : undefined}
      aria-selected={isCurrent}
      data-hit-mark={isFound ? '' : undefined}
      onClick={() => {
        onPick();
        if (size > 0 && (isCurrent || !isOpen)) onTurn();
      }}
      style={{
        position: 'absolute',
        top: topPx,
        height: ROW_PX,
        minWidth: '100%',
        paddingLeft: 6 + Math.min(depth, MOST_INDENTED) * 14,
      }}
      className={`flex items-center gap-1.5 whitespace-pre pr-2 ${isCurrent ? 'current' : 'hover:bg-grid'} ${isFound ? 'font-bold underline decoration-route' : ''}`}
    >
      <span className="w-2.5 shrink-0">{size > 0 ? <FoldMark isFolded={!isOpen} /> : null}</span>
      {key === undefined ? null : (
        <span className={typeof key === 'number' ? 'text-soft' : 'font-semibold text-ink'}>{key}</span>
      )}
      {isContainer ? <ContainerMark tree={tree} node={node} isOpen={isOpen} /> : <PlainValue tree={tree} node={node} />}
    </div>
  );
}

function ContainerMark({
  tree,
  node,
  isOpen,
}: {
  readonly tree: JsonTree;
  readonly node: number;
  readonly isOpen: boolean;
}) {
  const size = tree.sizes[node] ?? 0;
  if (size === 0) return <span className="text-soft">{tree.kinds[node] === 0 ? '{}' : '[]'}</span>;
  return (
    <span className="text-soft">
      {tree.kinds[node] === 0 ? `{${formatCount(size)}}` : `[${formatCount(size)}]`}
      {isOpen ? '' : ` ${previewOf(tree, node, PREVIEW_CHARS)}`}
    </span>
  );
}

/** Strings in ink, all else in the network's tone and upright: told apart by their quotes too. */
function PlainValue({ tree, node }: { readonly tree: JsonTree; readonly node: number }) {
  const start = tree.starts[node] ?? 0;
  const end = tree.ends[node] ?? 0;
  const text = tree.text.slice(start, Math.min(end, start + VALUE_CHARS));
  return (
    <span className={tree.kinds[node] === 2 ? 'text-ink' : 'font-semibold text-net'}>
      {text}
      {end - start > VALUE_CHARS ? '…' : ''}
    </span>
  );
}

function depthOf(tree: JsonTree, node: number): number {
  let depth = 0;
  for (let at = tree.parents[node] ?? -1; at !== -1; at = tree.parents[at] ?? -1) depth++;
  return depth;
}
