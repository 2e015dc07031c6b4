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
  yield outline.wrapper?.before ?? '';
  switch (outline.rootShape) {
    case 'array':
      yield* writeList(lists.entries);
      break;
    case 'rows':
      for (const entry of lists.entries) yield `${entry}\n`;
      return;
    case 'object':
      yield* writeMembers(outline.root, outline, lists);
      break;
    default:
      outline.rootShape satisfies never;
  }
  yield `${outline.wrapper?.after ?? ''}\n`;
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
