import { type HarOutline, type Json, writeHar } from '#core/har';
import type { Kind } from '#core/model';
import { withBlankBody, withoutBody } from '#core/redact';
import { pagesOfPart } from '#core/report';
import type { Recorded, RecordedEntry } from './recorded';

/** What of a capture is to leave. */
export interface PartChoice {
  /** Places of its exchanges; all of them where there are none. */
  readonly places?: ReadonlySet<number> | undefined;
  /** Exchanges of these kinds leave without their bodies, or with blank ones. */
  readonly withoutBodies: ReadonlySet<Kind>;
  readonly blank: ReadonlySet<Kind>;
}

/** What of a capture leaves, before anything is taken out. */
export interface Part {
  readonly recorded: Recorded;
  readonly pages: readonly Json[];
  readonly entries: () => Iterable<RecordedEntry>;
  /** An entry as it leaves before anything is taken out; undefined for one that stays here. */
  readonly prepare: (entry: RecordedEntry) => Json | undefined;
  /** Nothing but redaction makes what leaves differ from the capture. */
  readonly isWhole: boolean;
}

export function partOf(recorded: Recorded, { places, withoutBodies, blank }: PartChoice): Part {
  const { pages } = recorded;
  if (places === undefined && withoutBodies.size === 0 && blank.size === 0)
    return { recorded, pages, entries: recorded.entries, prepare: ({ value }) => value, isWhole: true };
  const { rows, overview } = recorded.analyse();
  const kinds = new Map<number, Kind>(rows.map(({ index, kind }) => [index, kind]));
  const used = rows.flatMap(({ index, pageId }) => (places === undefined || places.has(index) ? [pageId] : []));
  const prepare = ({ value, place }: RecordedEntry): Json | undefined => {
    if (places !== undefined && !places.has(place)) return undefined;
    const kind = kinds.get(place);
    if (kind !== undefined && withoutBodies.has(kind)) return withoutBody(value);
    return kind !== undefined && blank.has(kind) ? withBlankBody(value) : value;
  };
  function* entries(): Generator<RecordedEntry> {
    for (const { value, place } of recorded.entries()) {
      const prepared = prepare({ value, place });
      if (prepared !== undefined) yield { value: prepared, place };
    }
  }
  const isAll = used.length === rows.length;
  return {
    recorded,
    pages: isAll ? pages : pagesOfPart(pages, overview.pages, new Set(used)),
    entries,
    prepare,
    isWhole: false,
  };
}

/** Members of what encloses the entries that hold values. */
export const membersOf = ({ root, log }: HarOutline) => [...root, ...log].filter((one) => one.type === 'value');

/** How what leaves is changed on its way. */
export interface Changes {
  readonly entry: (entry: RecordedEntry) => Json;
  readonly value: (value: Json) => Json;
  readonly text: (text: string) => string;
}

const NO_CHANGES: Changes = { entry: ({ value }) => value, value: (value) => value, text: (text) => text };

/** A part as the text of a HAR file, in pieces. */
export function* piecesOf(part: Part, changes = NO_CHANGES): Generator<string> {
  const { outline } = part.recorded;
  const { wrapper } = outline;
  const changeMember = (one: HarOutline['root'][number]): HarOutline['root'][number] =>
    one.type === 'value' ? { ...one, value: changes.value(one.value) } : one;
  function* texts(): Generator<string> {
    for (const entry of part.entries()) yield JSON.stringify(changes.entry(entry));
  }
  yield* writeHar(
    {
      ...outline,
      root: outline.root.map(changeMember),
      log: outline.log.map(changeMember),
      ...(wrapper === undefined
        ? {}
        : { wrapper: { before: changes.text(wrapper.before), after: changes.text(wrapper.after) } }),
    },
    { pages: part.pages.map((page) => JSON.stringify(changes.value(page))), entries: texts() },
  );
}
