import { SECRET_KINDS, type SecretKind } from './kinds';
import { placeholderFor } from './placeholder';

/** By what a secret was found. */
export type FoundBy = 'place' | 'shape' | 'own' | 'pointed';

/** A value that was found, and what becomes of it. */
export interface Secret {
  readonly value: string;
  readonly kind: SecretKind;
  readonly by: FoundBy;
  /** The name that it stood under when it was found first; empty where its shape told. */
  readonly name: string;
  readonly placeholder: string;
  /** Replaced wherever it stands; a common word only where its place says that it is secret. */
  readonly isEverywhere: boolean;
  /** The exchange that it was found in first; none where it was found elsewhere, or is the user's own word. */
  readonly firstAt: number | undefined;
}

/** A body that secrets were not looked for in by their names and places: it is no text, or too long. */
export interface UnreadBody {
  readonly why: 'bytes' | 'long';
  readonly mimeType: string | undefined;
  /** The exchange that it is of; none where it stands outside of all. */
  readonly at: number | undefined;
}

/** What is taken out. */
export interface RedactChoice {
  readonly kinds: ReadonlySet<SecretKind>;
  /** Values that somebody switched on or off, against what the kinds say. */
  readonly on?: ReadonlySet<string>;
  readonly off?: ReadonlySet<string>;
}

/** Shorter values stand in anything by chance. */
const LEAST_EVERYWHERE = 6;
/** A plain word, or a small number, is likely to stand elsewhere and mean something else there. */
const COMMON = /^(?:[\p{Lu}]?[\p{Ll}]{1,12}|[\p{Lu}]{1,8}|\d{1,5})$/u;

/** Whether a value is told from others by itself: wherever it stands it is that secret. */
export const isTelling = (value: string): boolean => value.length >= LEAST_EVERYWHERE && !COMMON.test(value);

/** Values that are no secret whatever they are called. */
const NONE = /^(?:|true|false|null|undefined|none|yes|no|on|off|\d|deleted|\*+|\.+|-+|redacted|x{3,})$/i;

/** What was found in a capture, each value once, in the order in which it came. */
export class SecretStore {
  readonly #choice: RedactChoice;
  readonly #secrets = new Map<string, Secret>();
  readonly #left = new Map<string, Secret>();
  readonly #counts = new Map<SecretKind, number>();
  readonly #unread: UnreadBody[] = [];
  /** The exchange that is looked through; undefined outside of all. */
  place: number | undefined;

  constructor(choice: RedactChoice) {
    this.#choice = choice;
  }

  /** Takes a value in that was found; what the choice leaves alone is kept as suspicious. */
  add(value: string, kind: SecretKind, by: FoundBy, name = ''): void {
    if (NONE.test(value) || this.#secrets.has(value) || this.#left.has(value)) return;
    const isWanted = this.#choice.kinds.has(kind);
    const isOn = this.#choice.on?.has(value) === true || (isWanted && this.#choice.off?.has(value) !== true);
    // Where what stood under one name looks drawn it is that wherever it stands.
    const isEverywhere = by === 'own' || by === 'pointed' || isTelling(value) || this.#choice.on?.has(value) === true;
    const number = (this.#counts.get(kind) ?? 0) + 1;
    const placeholder = placeholderFor(kind, number, value);
    const secret: Secret = { value, kind, by, name, placeholder, isEverywhere, firstAt: this.place };
    if (isOn) {
      this.#counts.set(kind, number);
      this.#secrets.set(value, secret);
    } else this.#left.set(value, secret);
  }

  leaveUnread(body: Omit<UnreadBody, 'at'>): void {
    this.#unread.push({ ...body, at: this.place });
  }

  /** The bodies that were not read, in order. */
  get unread(): readonly UnreadBody[] {
    return this.#unread;
  }

  get(value: string): Secret | undefined {
    return this.#secrets.get(value);
  }

  /** What is replaced, by kind and in the order in which it was found. */
  get secrets(): readonly Secret[] {
    return inOrder([...this.#secrets.values()]);
  }

  /** What looks suspicious and is left, to be decided on. */
  get left(): readonly Secret[] {
    return inOrder([...this.#left.values()]);
  }

  /** Common words that are replaced in their places alone: elsewhere they may mean something else, or not. */
  get inPlaceOnly(): readonly Secret[] {
    return this.secrets.filter(({ isEverywhere }) => !isEverywhere);
  }
}

const inOrder = (secrets: readonly Secret[]): readonly Secret[] =>
  secrets.toSorted((a, b) => SECRET_KINDS.indexOf(a.kind) - SECRET_KINDS.indexOf(b.kind));
