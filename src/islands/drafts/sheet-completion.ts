import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import type { Extension, StateField } from '@codemirror/state';
import { markOf, splitQuery } from '#core/convert';
import type { ReadContext } from './sheet-context';

/** What can be offered, from the capture and from the reference. */
export interface SheetWords {
  readonly methods: readonly string[];
  readonly origins: readonly string[];
  readonly paths: readonly string[];
  /** Names of parameters, of calls to the same address where there are some. */
  readonly queryNames: (address: string) => readonly string[];
  readonly headerNames: () => Promise<readonly string[]>;
  /** The values that a header has in the capture, by its name in small letters. */
  readonly headerValues: (name: string) => Promise<readonly string[]>;
}

const options = (words: readonly string[], after = ''): Completion[] =>
  [...new Set(words)].map((label) => ({ label, apply: label + after }));

/** Offers what fits where the cursor is: variables anywhere, names and values by the line. */
export function sheetCompletion(field: StateField<ReadContext>, words: () => SheetWords): Extension {
  const complete = async (context: CompletionContext): Promise<CompletionResult | null> => {
    const slot = context.matchBefore(/‹\w*|\{\{\w*/);
    const { read, variables } = context.state.field(field);
    if (slot !== null) {
      const found = variables.map(({ name }) => ({ label: markOf(name), displayLabel: name, type: 'variable' }));
      return { from: slot.from, options: found, filter: false };
    }
    const line = context.state.doc.lineAt(context.pos);
    const { kind } = read.lines[line.number - 1] ?? {};
    const typed = context.state.sliceDoc(line.from, context.pos);
    const known = words();
    switch (kind) {
      case 'start': {
        const [method, rest] = [/^\S*$/.exec(typed), /\s(\S*)$/.exec(typed)];
        if (method !== null) return { from: line.from, options: options(known.methods, ' ') };
        return rest === null ? null : { from: context.pos - (rest[1]?.length ?? 0), options: options(known.origins) };
      }
      case 'path':
        return { from: line.from + (typed.length - typed.trimStart().length), options: options(known.paths) };
      case 'query': {
        const name = /^\s*[?&]([^=]*)$/.exec(typed)?.[1];
        return name === undefined
          ? null
          : {
              from: context.pos - name.length,
              options: options(known.queryNames(splitQuery(read.draft.url).base), '='),
            };
      }
      case 'header':
        return header(context, typed, known);
      case 'gap':
        return context.explicit ? { from: line.from, options: options(await known.headerNames(), ': ') } : null;
      default:
        return null;
    }
  };
  // Enter ends the line, unless one has gone to a word that is offered.
  return autocompletion({ override: [complete], icons: false, selectOnOpen: false });
}

async function header(context: CompletionContext, typed: string, known: SheetWords): Promise<CompletionResult | null> {
  const [, name, value] = /^(?:✗ )?([^:]+):\s?(.*)$/s.exec(typed) ?? [];
  if (name === undefined) {
    const begun = typed.replace(/^✗ /, '');
    return { from: context.pos - begun.length, options: options(await known.headerNames(), ': ') };
  }
  const values = await known.headerValues(name.toLowerCase());
  return values.length === 0 ? null : { from: context.pos - (value?.length ?? 0), options: options(values) };
}
