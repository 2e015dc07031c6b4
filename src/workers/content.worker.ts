import { decodeText, type Language } from '#core/content';
import { buildTable, type JsonTable, type JsonTree, orderTable, readJsonTree } from '#core/json';
import { formatCode } from './format-code';

// Reads long bodies away from the page: JSON into its tree, its arrays into tables, code formatted.

export type ToContentWorker =
  | { readonly type: 'json'; readonly address: string; readonly charsetType: string | undefined }
  | { readonly type: 'table'; readonly node: number; readonly opened: string | undefined }
  | { readonly type: 'order'; readonly column: number; readonly isFalling: boolean }
  | { readonly type: 'format'; readonly text: string; readonly language: Language };

export type FromContentWorker =
  | { readonly type: 'json'; readonly tree: JsonTree }
  | { readonly type: 'table'; readonly table: JsonTable }
  | { readonly type: 'order'; readonly order: Uint32Array }
  | { readonly type: 'formatted'; readonly text: string }
  | { readonly type: 'failed'; readonly reason: string };

let tree: JsonTree | undefined;
let table: JsonTable | undefined;

addEventListener('message', async ({ data }: MessageEvent<ToContentWorker>) => {
  try {
    postMessage(await answer(data));
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    postMessage({ type: 'failed', reason } satisfies FromContentWorker);
  }
});

async function answer(message: ToContentWorker): Promise<FromContentWorker> {
  switch (message.type) {
    case 'json': {
      const response = await fetch(message.address);
      if (!response.ok) throw new Error(`the server returned ${response.status}`);
      tree = readJsonTree(decodeText(new Uint8Array(await response.arrayBuffer()), message.charsetType));
      return { type: 'json', tree };
    }
    case 'table': {
      if (tree === undefined) throw new Error('there is no tree yet');
      table = buildTable(tree, message.node, message.opened);
      return { type: 'table', table };
    }
    case 'order': {
      if (tree === undefined || table === undefined) throw new Error('there is no table yet');
      return { type: 'order', order: orderTable(tree, table, message.column, message.isFalling) };
    }
    case 'format':
      return { type: 'formatted', text: await formatCode(message.text, message.language) };
    default:
      return message satisfies never;
  }
}
