import { isObject, type Json, member, NOTE_BEGINS } from '../har';
import { type Mark, markKey, readMarkKey } from './mark';

// Notes in a HAR file: its own `comment` (HAR 1.2) of an entry or a page.

/** Writes what was noted in a capture into its entries and pages. */
export class Comments {
  readonly #byTarget: ReadonlyMap<string, Mark>;
  /** What was noted on findings and legs, which HAR has no place for, by the pages or exchanges they are of. */
  readonly #ofPages = new Map<string, string[]>();

  constructor(marks: readonly Mark[]) {
    this.#byTarget = new Map(marks.map((mark) => [mark.target, mark]));
    for (const { target, note } of marks) {
      const of = readMarkKey(target);
      if (of?.type !== 'leg' || note === '') continue;
      this.#ofPages.set(of.page, [...(this.#ofPages.get(of.page) ?? []), `${of.leg}: ${note}`]);
    }
  }

  /** An entry with its note as its comment, behind what stood there. */
  entry(value: Json, index: number): Json {
    const mark = this.#byTarget.get(markKey({ type: 'exchange', index }));
    return mark === undefined ? value : withComment(value, mark.note);
  }

  /** A page with its note, and with those on its route. */
  page(value: Json): Json {
    const id = member(value, 'id');
    if (typeof id !== 'string') return value;
    const own = this.#byTarget.get(markKey({ type: 'page', id }))?.note ?? '';
    const notes = [own, ...(this.#ofPages.get(id) ?? [])].filter((note) => note !== '');
    return withComment(value, notes.join('\n'));
  }
}

/** What was noted on an exchange, as its comment says; none where the comment is a recorder's. */
export function marksOfComment(comment: Json | undefined, index: number): Mark[] {
  if (typeof comment !== 'string') return [];
  const notes = comment.split('\n\n').filter((part) => part.startsWith(NOTE_BEGINS));
  if (notes.length === 0) return [];
  const note = notes.map((part) => part.slice(NOTE_BEGINS.length)).join('\n');
  return [{ target: markKey({ type: 'exchange', index }), isMarked: false, note }];
}

function withComment(value: Json, note: string): Json {
  if (note === '' || !isObject(value)) return value;
  const before = member(value, 'comment');
  const written = NOTE_BEGINS + note.replace(/\n{2,}/g, '\n');
  if (typeof before !== 'string' || before === '') return { ...value, comment: written };
  // Saved again and taken in again, a note does not stand there twice.
  return before.split('\n\n').includes(written) ? value : { ...value, comment: `${before}\n\n${written}` };
}
