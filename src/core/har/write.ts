import type { HarOutline, OutlineMember } from './read';

export interface HarLists {
  readonly pages: Iterable<string>;
  readonly entries: Iterable<string>;
}

/**
 * Writes a capture again, piece by piece: the same members in the same order as they were read, with the lists' items
 * given as JSON texts. The result is JSON deep-equal to what was read.
 */
export function* writeHar(outline: HarOutline, lists: HarLists): Generator<string> {
  if (outline.rootShape === 'array') {
    yield* writeList(lists.entries);
    yield '\n';
    return;
  }
  yield* writeMembers(outline.root, outline, lists);
  yield '\n';
}

function* writeMembers(members: readonly OutlineMember[], outline: HarOutline, lists: HarLists): Generator<string> {
  yield '{';
  let isFirst = true;
  for (const part of members) {
    const key = part.type === 'value' ? part.key : part.type;
    yield `${isFirst ? '' : ','}\n${JSON.stringify(key)}: `;
    isFirst = false;
    switch (part.type) {
      case 'value':
        yield JSON.stringify(part.value);
        break;
      case 'log':
        yield* writeMembers(outline.log, outline, lists);
        break;
      case 'pages':
        yield* writeList(lists.pages);
        break;
      case 'entries':
        yield* writeList(lists.entries);
        break;
      default:
        part satisfies never;
    }
  }
  yield '\n}';
}

function* writeList(items: Iterable<string>): Generator<string> {
  yield '[';
  let isFirst = true;
  for (const item of items) {
    yield isFirst ? '\n' : ',\n';
    isFirst = false;
    yield item;
  }
  yield ']';
}
