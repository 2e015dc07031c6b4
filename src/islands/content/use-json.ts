import { useEffect, useState } from 'react';
import { buildTable, type JsonTable, type JsonTree, orderTable, readJsonTree } from '#core/json';
import type { Content } from './content';
import { ContentWorker } from './content-worker';

/** JSON that is being read, there, or not to be had; its tables are made where the tree was. */
export type JsonState =
  | { readonly state: 'failed'; readonly reason: string }
  | {
      readonly state: 'there';
      readonly tree: JsonTree;
      /** True while only the beginning of a long text is there. */
      readonly isBeginning: boolean;
      /** @param opened the column of a nested list that is opened */
      readonly tableOf: (node: number, opened: string | undefined) => Promise<JsonTable>;
      readonly orderOf: (table: JsonTable, column: number, isFalling: boolean) => Promise<Uint32Array>;
    };

/** Reads a JSON content: a short one at once, a long one in a worker, so that the page never stands still. */
export function useJson(content: Pick<Content, 'text' | 'isCut' | 'address' | 'charsetType'>): JsonState {
  const { text, isCut, address, charsetType } = content;
  const [state, setState] = useState<JsonState>(() => readHere(text ?? '', isCut));
  useEffect(() => {
    if (!isCut || address === undefined) {
      setState(readHere(text ?? '', false));
      return;
    }
    // Its beginning is read at once, so that there is something to look at; places in it stay what they are.
    setState(readHere(text ?? '', true));
    const worker = new ContentWorker();
    let isCurrent = true;
    worker
      .ask({ type: 'json', address, charsetType })
      .then(({ tree }) => {
        if (!isCurrent) return;
        setState({
          state: 'there',
          tree,
          isBeginning: false,
          tableOf: async (node, opened) => (await worker.ask({ type: 'table', node, opened })).table,
          orderOf: async (_table, column, isFalling) => (await worker.ask({ type: 'order', column, isFalling })).order,
        });
      })
      .catch((error: Error) => {
        if (isCurrent) setState({ state: 'failed', reason: error.message });
      });
    return () => {
      isCurrent = false;
      worker.stop();
    };
  }, [text, isCut, address, charsetType]);
  return state;
}

function readHere(text: string, isBeginning: boolean): JsonState {
  const tree = readJsonTree(text);
  return {
    state: 'there',
    tree: isBeginning ? { ...tree, problem: undefined } : tree,
    isBeginning,
    tableOf: async (node, opened) => buildTable(tree, node, opened),
    orderOf: async (table, column, isFalling) => orderTable(tree, table, column, isFalling),
  };
}
