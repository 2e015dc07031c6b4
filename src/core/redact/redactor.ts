import { FORM_FIELD, findSecrets } from '../content';
import type { Json } from '../har';
import { Automaton } from './automaton';
import { type EntryTools, mapEntry, type TextRole, withSize } from './entry';
import { layersOf, packedIn } from './layers';
import { isUnderName } from './names';
import { ofLength } from './placeholder';
import type { Secret, SecretStore } from './store';
import { variantsOf } from './variants';

/** How often a secret was replaced, and in which exchanges. */
export interface Replaced {
  readonly secret: Secret;
  readonly count: number;
  /** Numbers of the first exchanges that had it; more than these are only counted. */
  readonly places: readonly number[];
}

/** Of what leaves a stretch: as it was recorded, or what stands in place of a secret. */
export interface Stretch {
  readonly text: string;
  readonly secret?: Secret;
}

interface Count {
  count: number;
  readonly places: Set<number>;
}

const MOST_PLACES = 200;

/** Replaces what a store holds, wherever it stands and however it is written there. */
export class Redactor {
  readonly #store: SecretStore;
  readonly #automaton: Automaton;
  /** For each pattern the secret and what stands there instead. */
  readonly #patterns: readonly { readonly secret: Secret; readonly text: string }[];
  readonly #hasInPlace: boolean;
  readonly #hasSpaces: boolean;
  readonly #counts = new Map<string, Count>();
  readonly #byPlace = new Map<number, number>();
  #place: number | undefined;

  constructor(store: SecretStore) {
    this.#store = store;
    const patterns = new Map<string, { readonly secret: Secret; readonly text: string }>();
    for (const secret of store.secrets) {
      if (!secret.isEverywhere) continue;
      for (const { text, write } of variantsOf(secret.value)) {
        if (patterns.has(text)) continue;
        const plain = write(secret.placeholder);
        // In base64 and hex what follows must not move: there it is made just as long.
        const written = plain.length === text.length ? plain : sameLength(secret, text, write);
        patterns.set(text, { secret, text: written });
      }
    }
    this.#automaton = new Automaton([...patterns.keys()]);
    this.#patterns = [...patterns.values()];
    this.#hasSpaces = [...patterns.keys()].some((text) => text.includes(' '));
    this.#hasInPlace = store.inPlaceOnly.length > 0;
  }

  /** What was replaced so far, how often, and where. */
  get replaced(): readonly Replaced[] {
    return this.#store.secrets.map((secret) => {
      const { count = 0, places } = this.#counts.get(secret.value) ?? {};
      return { secret, count, places: [...(places ?? [])] };
    });
  }

  /** In how many places something was replaced, by the number of the exchange. */
  get byPlace(): ReadonlyMap<number, number> {
    return this.#byPlace;
  }

  /** @param place the exchange's number, for telling where secrets were */
  entry(entry: Json, tools: EntryTools, place?: number): Json {
    this.#place = place;
    const written = withSize(
      entry,
      mapEntry(entry, (text, role) => this.text(text, role), tools),
    );
    this.#place = undefined;
    return written;
  }

  /** A text with every secret in it replaced. */
  text(text: string, role: TextRole = OTHER): string {
    if (text === '') return text;
    const inPlace = this.#hasInPlace ? this.#inPlaceEdits(text, role) : NO_EDITS;
    const first = inPlace.length === 0 ? text : applied(text, inPlace);
    const edits = this.#editsOf(first, 0);
    for (const { secret } of inPlace) this.#count(secret);
    for (const { secret, also = [] } of edits) for (const one of [secret, ...also]) this.#count(one);
    return edits.length === 0 ? first : applied(first, edits);
  }

  /** The same text in stretches that tell what was replaced from what was not; nothing is counted. */
  stretches(text: string, role: TextRole = OTHER): Stretch[] {
    const inPlace = this.#hasInPlace ? this.#inPlaceEdits(text, role) : NO_EDITS;
    const first = applied(text, inPlace);
    const edits = withoutOverlaps([...this.#editsOf(first, 0), ...placedIn(inPlace)]);
    const stretches: Stretch[] = [];
    let copied = 0;
    for (const { start, end, text: replacement, secret } of edits) {
      if (start > copied) stretches.push({ text: first.slice(copied, start) });
      stretches.push({ text: replacement, secret });
      copied = end;
    }
    if (copied < first.length) stretches.push({ text: first.slice(copied) });
    return stretches;
  }

  /** What is to be replaced in a text, as it stands and behind each encoding in it, in order; none overlaps another. */
  #editsOf(text: string, depth: number): readonly Edit[] {
    if (this.#patterns.length === 0) return NO_EDITS;
    const own = this.#automaton.find(text).flatMap(({ start, end, pattern }): Edit[] => {
      const found = this.#patterns[pattern];
      return found === undefined ? [] : [{ start, end, ...found }];
    });
    if (depth >= MOST_LAYERS) return own;
    const behind = layersOf(text, this.#hasSpaces).flatMap(({ text: inner, starts, write }) =>
      this.#editsOf(inner, depth + 1).map(
        (edit): Edit => ({
          ...edit,
          start: starts[edit.start] ?? 0,
          end: starts[edit.end] ?? text.length,
          text: write(edit.text),
        }),
      ),
    );
    const packed = this.#packedEdits(text, own, depth);
    return behind.length + packed.length === 0 ? own : withoutOverlaps([...own, ...behind, ...packed]);
  }

  /** What is to be replaced in base64 where it is encoded once more inside that: the whole run is written anew. */
  #packedEdits(text: string, own: readonly Edit[], depth: number): readonly Edit[] {
    return packedIn(text).flatMap(({ start, end, text: inner, write }): readonly Edit[] => {
      const edits = this.#editsOf(inner, depth + 1);
      const [first, ...others] = edits;
      // What stands there as it is was found by its base64 already, and is replaced in its place.
      const known = edits.length === 0 ? 0 : own.filter((edit) => edit.start >= start && edit.end <= end).length;
      if (first === undefined || known >= edits.length) return NO_EDITS;
      const also = others.map(({ secret }) => secret);
      return [{ start, end, text: write(applied(inner, edits)), secret: first.secret, also }];
    });
  }

  #count({ value }: Secret): void {
    const own = this.#counts.get(value) ?? { count: 0, places: new Set<number>() };
    own.count++;
    if (this.#place !== undefined) {
      if (own.places.size < MOST_PLACES) own.places.add(this.#place);
      this.#byPlace.set(this.#place, (this.#byPlace.get(this.#place) ?? 0) + 1);
    }
    this.#counts.set(value, own);
  }

  /** Common words, which are secret only where they stand as one. */
  #inPlaceEdits(text: string, role: TextRole): readonly Edit[] {
    switch (role.type) {
      case 'cookie':
        return this.#inPlace(text, 0);
      case 'pair':
      case 'member':
        return isUnderName(role.name, text) ? this.#inPlace(text, 0) : NO_EDITS;
      case 'header':
        return this.#inHeader(role.name.toLowerCase(), text);
      case 'url':
        return this.#inSpans(text, { type: 'url' });
      case 'content':
        return withoutOverlaps([...this.#inSpans(text, role.text), ...this.#inParts(text)]);
      case 'bytes':
      case 'other':
        return NO_EDITS;
      default:
        return role satisfies never;
    }
  }

  /** The edit of a value that stands at a place, if it is a common word that is secret there. */
  #inPlace(value: string, start: number, end = start + value.length): readonly Edit[] {
    const secret = this.#store.get(value);
    if (secret === undefined || secret.isEverywhere) return NO_EDITS;
    return [{ start, end, text: secret.placeholder, secret }];
  }

  #inHeader(name: string, text: string): readonly Edit[] {
    if (name !== 'cookie' && name !== 'set-cookie') return this.#inSpans(text, { type: 'named', name });
    const pairs = name === 'cookie' ? SENT_COOKIE : SET_COOKIE;
    return [...text.matchAll(pairs)].flatMap(({ index, 1: before = '', 2: value = '' }) =>
      this.#inPlace(value, index + before.length),
    );
  }

  #inSpans(text: string, where: Parameters<typeof findSecrets>[1]): readonly Edit[] {
    return findSecrets(text, where, isUnderName).flatMap(({ start, end, value }) => this.#inPlace(value, start, end));
  }

  #inParts(text: string): readonly Edit[] {
    if (!text.includes('form-data')) return NO_EDITS;
    return [...text.matchAll(FORM_FIELD)].flatMap(({ index, groups: { head = '', value = '' } = {} }) =>
      this.#inPlace(value, index + head.length),
    );
  }
}

const OTHER: TextRole = { type: 'other' };
const NO_EDITS: readonly Edit[] = [];

/** A pair of Cookie, and the first of each line of Set-Cookie (RFC 6265 4.1, 4.2): what stands before the value, and the value. */
const SENT_COOKIE = /((?:^|;)[^=;]*=)([^;]*)/g;
const SET_COOKIE = /(^[^=;\n]*=)([^;\n]*)/gm;

/** So many encodings inside one another are undone. */
const MOST_LAYERS = 3;

/** A place of a text, and what stands there instead. */
interface Edit {
  readonly start: number;
  readonly end: number;
  readonly text: string;
  readonly secret: Secret;
  /** Others that stood in the same place, encoded with it. */
  readonly also?: readonly Secret[];
}

/** A text with edits made that are in order and do not overlap. */
function applied(text: string, edits: readonly Edit[]): string {
  let written = '';
  let copied = 0;
  for (const { start, end, text: replacement } of edits) {
    written += text.slice(copied, start) + replacement;
    copied = end;
  }
  return written + text.slice(copied);
}

/** Where what edits wrote stands in the text that they were made in. */
function placedIn(edits: readonly Edit[]): readonly Edit[] {
  let movedBy = 0;
  return edits.map((edit) => {
    const start = edit.start + movedBy;
    movedBy += edit.text.length - (edit.end - edit.start);
    return { ...edit, start, end: start + edit.text.length };
  });
}

/** Of edits that overlap the one that begins first, and of those the longest. */
function withoutOverlaps(edits: readonly Edit[]): Edit[] {
  const kept: Edit[] = [];
  for (const edit of edits.toSorted((one, other) => one.start - other.start || other.end - one.end)) {
    if (edit.start >= (kept.at(-1)?.end ?? 0) && edit.end > edit.start) kept.push(edit);
  }
  return kept;
}

function sameLength(secret: Secret, text: string, write: (placeholder: string) => string): string {
  const { value, placeholder } = secret;
  const isBytewise = /^[A-Za-z0-9+/_%=\\-]+$/.test(text) && !text.includes(value);
  const bytes = new TextEncoder().encode(value).length;
  return write(isBytewise ? ofLength(placeholder, bytes) : placeholder);
}
