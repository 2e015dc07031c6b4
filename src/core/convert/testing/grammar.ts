import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Language, Parser } from 'web-tree-sitter';

const require = createRequire(import.meta.url);

/** Where the grammars are of languages that nothing here runs. */
const GRAMMARS = {
  csharp: 'tree-sitter-wasms/out/tree-sitter-c_sharp.wasm',
  'rust-reqwest': 'tree-sitter-wasms/out/tree-sitter-rust.wasm',
  'kotlin-okhttp': 'tree-sitter-wasms/out/tree-sitter-kotlin.wasm',
  swift: 'tree-sitter-wasms/out/tree-sitter-swift.wasm',
  powershell: 'tree-sitter-powershell/tree-sitter-powershell.wasm',
} as const;
export type ParsedTarget = keyof typeof GRAMMARS;
export const PARSED_TARGETS = Object.keys(GRAMMARS) as ParsedTarget[];

/** What tells whether a text is what a language's grammar allows. */
export async function grammarOf(id: ParsedTarget): Promise<(text: string) => boolean> {
  await Parser.init();
  const parser = new Parser();
  parser.setLanguage(await Language.load(readFileSync(require.resolve(GRAMMARS[id]))));
  return (text) => {
    // The Kotlin grammar takes an escaped dollar before another escape for a template; by its code it is text.
    const tree = parser.parse(id === 'kotlin-okhttp' ? text.replaceAll('\\$', '\\u0024') : text);
    const isAllowed = tree !== null && !tree.rootNode.hasError;
    tree?.delete();
    return isAllowed;
  };
}
