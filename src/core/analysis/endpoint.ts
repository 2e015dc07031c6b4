import { addTo } from '../collections';
import { percentDecoded, splitUrl } from '../http';
import { hashText, type Kind } from '../model';
import { type AnswerClue, LOCATION } from './answer-clue';

/** What an endpoint's name is made of. */
export interface EndpointCall {
  readonly method: string;
  readonly url: string;
  readonly operation: string | undefined;
  readonly kind: Kind;
  readonly answerClue: AnswerClue | undefined;
}

/**
 * Segments that are never a fixed part of a path, whatever their neighbours: numbers, UUIDs, ids that sort by their time, hex of 8
 * and more, dates, places on earth, JSON Web Tokens.
 */
const VARYING = [
  /^\d+$/,
  /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i,
  /^(?=.*\d)[0-9a-f]{8,}$/i,
  /^\d{4}-\d{2}(-\d{2})?(T[\d:.]+Z?)?$/,
  /^[0-7][0-9A-HJKMNP-TV-Z]{25}$/,
  /^-?\d{1,3}\.\d+,-?\d{1,3}\.\d+$/,
  /^eyJ[\w-]+\.[\w-]+\.[\w-]*$/,
];
const isVarying = (segment: string): boolean => VARYING.some((pattern) => pattern.test(segment));

/**
 * The endpoint of each call: method, host and path with its varying segments as {}, then the GraphQL operation. A
 * segment varies by its form; else, where paths of one method and host differ at this one place, by evidence only: the
 * words are values that answers or queries hold under one name, or their answers have the same members. Files need no
 * more than names like those of things.
 */
export function nameEndpoints(calls: readonly EndpointCall[]): string[] {
  const paths = calls.map(readPath);
  const stock = new WordStock(calls);
  const deepest = paths.reduce((most, { segments }) => Math.max(most, segments.length), 0);
  for (let at = 0; at < deepest; at++) openPlace(paths, at, stock);
  return paths.map(({ method, host, segments, operation }) => `${method} ${host}${segments.join('/')}${operation}`);
}

interface Path {
  readonly method: string;
  /** Host and the first slash. */
  readonly host: string;
  /** Varying ones as {}: those that vary by their form at once, the others when their place comes. */
  readonly segments: string[];
  readonly operation: string;
  readonly isFile: boolean;
  readonly members: string | undefined;
}

/** An address may be a million characters long; what names an endpoint stands at the beginning. */
const READ_CHARS = 2000;
const READ_SEGMENTS = 24;
const FILES: ReadonlySet<Kind> = new Set(['image', 'font', 'media', 'script', 'style']);

function readPath({ method, url, operation, kind, answerClue }: EndpointCall): Path {
  const address = splitUrl(url);
  const common = {
    method,
    operation: operation === undefined ? '' : ` ${operation}`,
    isFile: FILES.has(kind),
    members: answerClue?.members,
  };
  if (address === undefined) return { ...common, host: url.slice(0, 200), segments: [] };
  const segments = address.path.slice(1, 1 + READ_CHARS).split('/', READ_SEGMENTS);
  return { ...common, host: `${address.authority}/`, segments: segments.map(fixedPart) };
}

/** A segment without its parameters (RFC 3986 3.3), as a session may be one; {} where it varies by its form. */
function fixedPart(segment: string): string {
  const semicolon = segment.indexOf(';');
  const own = semicolon > 0 ? segment.slice(0, semicolon) : segment;
  return isVarying(own) ? '{}' : own;
}

/** The words at one place of otherwise equal paths. */
interface Group {
  readonly words: Map<string, string | undefined>;
  readonly isFile: boolean;
  readonly isLast: boolean;
}

/** Opens the segments at a place that vary, in all paths that lead there, whatever their method and what follows. */
function openPlace(paths: readonly Path[], at: number, stock: WordStock): void {
  const groups = new Map<string, Group & { readonly before: string }>();
  const beforeOf = ({ host, segments }: Path): string => host + segments.slice(0, at).join('/');
  for (const path of paths) {
    const word = path.segments[at];
    if (word === undefined || word === '' || word === '{}') continue;
    const before = beforeOf(path);
    const rest = path.segments.slice(at + 1).join('/');
    // A file's name stays apart from those of other types.
    const key = `${path.method} ${path.isFile} ${before}/*${extensionOf(word)}/${rest}`;
    let group = groups.get(key);
    if (group === undefined) {
      group = { words: new Map(), isFile: path.isFile, isLast: path.segments.length === at + 1, before };
      groups.set(key, group);
    }
    group.words.set(word, group.words.get(word) ?? path.members);
  }
  const open = new Set<string>();
  for (const group of groups.values()) {
    const varying = group.isFile ? findFileNames(group) : findNames(group, stock);
    for (const word of varying) open.add(`${group.before}/${word}`);
  }
  if (open.size === 0) return;
  for (const path of paths) {
    const word = path.segments[at];
    // A masked file name keeps its extension: every photo is one endpoint, and no style is.
    if (word !== undefined && open.has(`${beforeOf(path)}/${word}`)) path.segments[at] = `{}${extensionOf(word)}`;
  }
}

const extensionOf = (segment: string): string => /\.[a-z]\w{0,5}$/i.exec(segment)?.[0] ?? '';
const withoutExtension = (word: string): string => word.slice(0, word.length - extensionOf(word).length);

/** Otherwise equal paths of files with so many names at one place vary there. */
const NAMES_VARY_FROM = 2;
/** At the end of a path more are asked for. */
const LAST_NAMES_VARY_FROM = 3;
/** And so many plain words. */
const WORDS_VARY_FROM = 6;

/** Files are named "alba-norte.webp", "ridge_1600.webp" or "A7.webp"; a few plain words are more likely one of a kind each. */
function findFileNames({ words, isLast }: Group): Iterable<string> {
  const names = [...words.keys()].filter((word) => /[\d_%.~-]|[a-z][A-Z]/.test(withoutExtension(word)));
  const vary = names.length >= (isLast ? LAST_NAMES_VARY_FROM : NAMES_VARY_FROM) || words.size >= WORDS_VARY_FROM;
  return vary ? words.keys() : [];
}

/** "v2" is another version of the service, not another thing in it. */
const isVersion = (word: string): boolean => /^v\d+(\.\d+)*$/i.test(word);

/** The words that are names of things; the others are what a server does: "sign-in", "beds", "getUser". */
function findNames({ words, isLast }: Group, stock: WordStock): Set<string> {
  const candidates = [...words.keys()].filter((word) => !isVersion(word));
  const found = new Set<string>();
  const addUnlessAnswersDiffer = (alike: readonly string[], from: number): void => {
    const forms = alikeIn(alike.map((word) => [word, words.get(word)] as const));
    if (alike.length >= from && forms.length < 2) for (const word of alike) found.add(word);
  };
  addUnlessAnswersDiffer(stock.valuesAmong(candidates), 2);
  // One with a number needs no company where an answer gave it: "h-77120".
  for (const word of candidates) if (hasNumber(word) && stock.has(word)) found.add(word);
  // "oauth2" and "s3" are two services: at the end of a path two words with numbers are too few.
  addUnlessAnswersDiffer(candidates.filter(hasNumber), isLast ? LAST_NAMES_VARY_FROM : NAMES_VARY_FROM);
  for (const { members, words: own } of alikeIn(candidates.map((word) => [word, words.get(word)] as const))) {
    const tell = own.filter((word) => tellsByMembers(word, members, isLast));
    if (tell.length >= 2) for (const word of tell) found.add(word);
  }
  // An answer that failed has no form: its word goes with the others where all look like names.
  if (found.size > 0 && [...found].every(looksLikeName)) {
    for (const word of candidates) if (words.get(word) === undefined && looksLikeName(word)) found.add(word);
  }
  return found;
}

const looksLikeName = (word: string): boolean => /[\d_~\s-]|\P{ASCII}/u.test(percentDecoded(word));
const hasNumber = (word: string): boolean => /\d/.test(percentDecoded(word));

/** Answers with fewer members may be one envelope, or an echo, for different things; a name needs no more. */
const WORDS_TELL_FROM = 5;

/**
 * Whether a word's answers, of one form with others', say that it is a name. At the end of a path a number has to be in a
 * name, since "price-list" and "guest-list" are no names; lists of one form are more likely two collections ("users",
 * "teams") than one collection's two things.
 */
function tellsByMembers(word: string, members: string, isLast: boolean): boolean {
  const isName = isLast ? hasNumber(word) : looksLikeName(word);
  const isList = /(^|\n)[^\n]*\[\]\./.test(members);
  return isName || (!isList && members.split('\n').length >= WORDS_TELL_FROM);
}

/** Answers are of one form where they share so much of all their members: some are optional. */
const SHARED_MEMBERS = 0.8;

/** Words by the form of their answers, those left out whose answers have none that is known. */
function alikeIn(
  words: readonly (readonly [string, string | undefined])[],
): { readonly members: string; readonly words: string[] }[] {
  const forms: { readonly members: string; readonly names: ReadonlySet<string>; readonly words: string[] }[] = [];
  for (const [word, members] of words) {
    if (members === undefined) continue;
    const known = forms.find((form) => form.members === members) ?? forms.find((form) => isAlike(form.names, members));
    if (known === undefined) forms.push({ members, names: new Set(members.split('\n')), words: [word] });
    else known.words.push(word);
  }
  return forms;
}

function isAlike(names: ReadonlySet<string>, members: string): boolean {
  const own = members.split('\n');
  const shared = own.filter((name) => names.has(name)).length;
  return shared / (own.length + names.size - shared) >= SHARED_MEMBERS;
}

/** The words that answers and queries hold, each with the names that it stands under. */
class WordStock {
  readonly #calls: readonly EndpointCall[];
  #names: Map<number, Set<number>> | undefined;

  constructor(calls: readonly EndpointCall[]) {
    this.#calls = calls;
  }

  /** True where a word stands in what was answered or asked, under whatever name. */
  has(word: string): boolean {
    this.#names ??= this.#read();
    return this.#names.has(hashText(word));
  }

  /** Of these words the most that stand under one name. */
  valuesAmong(words: readonly string[]): string[] {
    this.#names ??= this.#read();
    const under = new Map<number, [string, ...string[]]>();
    for (const word of words) {
      for (const name of this.#names.get(hashText(word)) ?? []) {
        if (name !== LOCATION) addTo(under, name, word);
      }
    }
    return [...under.values()].reduce<string[]>((most, own) => (own.length > most.length ? own : most), []);
  }

  #read(): Map<number, Set<number>> {
    const names = new Map<number, Set<number>>();
    const add = (name: number, word: number): void => {
      const known = names.get(word);
      if (known === undefined) names.set(word, new Set([name]));
      else known.add(name);
    };
    for (const { url, answerClue } of this.#calls) {
      const { words = new Uint32Array() } = answerClue ?? {};
      for (let at = 0; at + 1 < words.length; at += 2) add(words[at] ?? 0, words[at + 1] ?? 0);
      const mark = url.slice(0, READ_CHARS).indexOf('?');
      if (mark === -1) continue;
      for (const pair of url.slice(mark + 1, READ_CHARS).split('&')) {
        const [name = '', value = ''] = pair.split('=', 2);
        add(hashText(name), hashText(value));
      }
    }
    return names;
  }
}
