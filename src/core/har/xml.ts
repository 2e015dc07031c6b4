import { Parser } from 'htmlparser2';
import type { Json } from './shape';

/** Elements whose children are the items of a list, whatever they are called. */
const LISTS = new Set(['pages', 'entries', 'headers', 'cookies', 'queryString', 'params']);
/** Elements whose text is text even where it looks like a number; all others may be one. */
const TEXTS = new Set(['name', 'value', 'text', 'comment', 'version', 'title', 'id', 'pageref', 'connection', 'url']);
const NUMBER = /^-?\d+(?:\.\d+)?$/;
/** HAR nests some ten deep. */
const DEEPEST = 100;

interface Element {
  readonly name: string;
  readonly members: [string, Json][];
  text: string;
}

export interface XmlHandlers {
  readonly onEntry: (entry: Json) => void;
  readonly onPage: (page: Json) => void;
  /** A member of `log` other than the two lists. */
  readonly onField: (key: string, value: Json) => void;
  readonly onList: (key: 'pages' | 'entries') => void;
}

/**
 * Reads a capture in XML: HAR 1.2's member names as elements, lists as an element around their items. Attributes count as
 * members. Gives each entry as soon as its element ends.
 */
export class XmlReader {
  readonly #decoder = new TextDecoder('utf-8');
  readonly #parser: Parser;
  readonly #handlers: XmlHandlers;
  readonly #open: Element[] = [];
  #isWhole = false;
  #isTooDeep = false;

  constructor(handlers: XmlHandlers) {
    this.#handlers = handlers;
    this.#parser = new Parser(
      {
        onopentag: (name, attributes) => this.#enter(name, attributes),
        ontext: (text) => {
          const top = this.#open.at(-1);
          if (top !== undefined) top.text += text;
        },
        onclosetag: (_name, isImplied) => this.#leave(isImplied),
      },
      { xmlMode: true },
    );
  }

  push(chunk: Uint8Array): void {
    if (!this.#isTooDeep) this.#parser.write(this.#decoder.decode(chunk, { stream: true }));
  }

  /** True where the file's outermost element was closed. */
  end(): boolean {
    this.#parser.end();
    return this.#isWhole;
  }

  #enter(name: string, attributes: Readonly<Record<string, string>>): void {
    if (this.#open.length >= DEEPEST) this.#isTooDeep = true;
    this.#open.push({
      name,
      members: Object.entries(attributes).map(([key, value]) => [key, leafOf(key, value)]),
      text: '',
    });
    if (this.#isInLog(1) && (name === 'pages' || name === 'entries')) this.#handlers.onList(name);
  }

  /** An element that was never closed holds what may be half of it: it is left out. */
  #leave(isImplied: boolean): void {
    const element = this.#open.pop();
    if (element === undefined || isImplied) return;
    const parent = this.#open.at(-1);
    if (parent === undefined) this.#isWhole = true;
    else if (parent.name === 'entries' && this.#isInLog(1)) this.#handlers.onEntry(jsonOf(element));
    else if (parent.name === 'pages' && this.#isInLog(1)) this.#handlers.onPage(jsonOf(element));
    else if (parent.name === 'log' && this.#open.length <= 2) {
      if (element.name !== 'pages' && element.name !== 'entries') this.#handlers.onField(element.name, jsonOf(element));
    } else parent.members.push([element.name, jsonOf(element)]);
  }

  /** True where the innermost open element stands so many levels below `log`. */
  #isInLog(levels: number): boolean {
    const log = this.#open.at(-1 - levels);
    return log?.name === 'log' && this.#open.length - 1 - levels <= 1;
  }
}

function jsonOf({ name, members, text }: Element): Json {
  if (LISTS.has(name)) return members.map(([, item]) => item);
  if (members.length === 0) return leafOf(name, TEXTS.has(name) ? text : text.trim());
  if (text.trim() !== '') members.push(['text', text]);
  // Own properties, whatever the elements are called.
  return Object.fromEntries(members);
}

const leafOf = (name: string, text: string): Json => (!TEXTS.has(name) && NUMBER.test(text) ? Number(text) : text);
