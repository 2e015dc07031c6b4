import type { Draft, Variable } from './draft';
import { mapTexts } from './texts';

/** A piece of a value: text as it is to be sent, or the place of a variable. */
export type Piece = { readonly text: string } | { readonly variable: Variable };
/** A value to send, in pieces; no pieces are the empty value. */
export type Value = readonly Piece[];

/** What variables may be called: names that every language takes, so that no target has to change them much. */
export const VARIABLE_NAME = /^[A-Za-z][A-Za-z0-9_]*$/;

/** A variable's place in a text, in characters that no address and no header of a capture holds as they are. */
export const VARIABLE_MARK = /‹([A-Za-z][A-Za-z0-9_]*)›/g;

/** The mark of a variable. */
export const markOf = (name: string): string => `‹${name}›`;

/** Changes a text between its marks, which stay. */
export const betweenMarks = (text: string, change: (text: string) => string): string =>
  text
    .split(/(‹[A-Za-z][A-Za-z0-9_]*›)/)
    .map((piece, at) => (at % 2 === 1 ? piece : change(piece)))
    .join('');

/** What variables hold, by their names. */
export type KnownValues = ReadonlyMap<string, { readonly value: string }>;

/** A variable whose value has to be encoded where its mark stands gives way to it: what is sent of one is its value as it stands. */
export const settledMarks = (text: string, encode: (text: string) => string, values: KnownValues): string =>
  text.replace(VARIABLE_MARK, (mark, name: string) => {
    const value = values.get(name)?.value ?? '';
    const encoded = encode(value);
    return encoded === value ? mark : encoded;
  });

/** Encodes a text between its marks, and what they stand for where it has to be. */
export const encodedAround = (text: string, encode: (text: string) => string, values: KnownValues): string =>
  settledMarks(betweenMarks(text, encode), encode, values);

/** Takes a text apart at its `‹name›` marks; those that name no variable of the draft are text like any other. */
export function readValue(text: string, variables: readonly Variable[]): Value {
  if (variables.length === 0 || !text.includes('‹')) return text === '' ? [] : [{ text }];
  const pieces: Piece[] = [];
  let at = 0;
  for (const match of text.matchAll(VARIABLE_MARK)) {
    const variable = variables.find(({ name }) => name === match[1]);
    if (variable === undefined) continue;
    if (match.index > at) pieces.push({ text: text.slice(at, match.index) });
    pieces.push({ variable });
    at = match.index + match[0].length;
  }
  if (at < text.length) pieces.push({ text: text.slice(at) });
  return pieces;
}

/** A value with its variables filled in. */
export const plainText = (value: Value): string =>
  value.map((piece) => ('text' in piece ? piece.text : piece.variable.value)).join('');

/** The value as one text; undefined where it has variables in it. */
export const fixedText = (value: Value): string | undefined =>
  value.every((piece) => 'text' in piece) ? plainText(value) : undefined;

/**
 * A value as an expression of a language.
 * @param quote makes a literal of a text
 * @param refer names a variable
 * @param plus what joins two strings
 */
export function writeValue(
  value: Value,
  quote: (text: string) => string,
  refer: (variable: Variable) => string,
  plus = ' + ',
): string {
  if (value.length === 0) return quote('');
  const pieces = value.map((piece) => ('text' in piece ? quote(piece.text) : refer(piece.variable)));
  // A lone variable in a language that would not take it for text is still text: variables hold nothing else.
  return pieces.join(plus);
}

/** An address in its pieces: scheme and host; path; and what stands behind the question mark, where there is one. */
export interface SplitAddress {
  readonly origin: Value;
  readonly path: Value;
  readonly query: Value | undefined;
}

/** Takes an address apart by its characters, variables where they stand. */
export function splitUrlValue(address: Value): SplitAddress {
  const parts: [Piece[], Piece[], Piece[]] = [[], [], []];
  let part: 0 | 1 | 2 = 0;
  let slashes = 0;
  for (const piece of address) {
    if (!('text' in piece)) {
      parts[part].push(piece);
      continue;
    }
    let text = '';
    const end = (): void => {
      if (text !== '') parts[part].push({ text });
      text = '';
    };
    for (const character of piece.text) {
      if (part === 0 && character === '/') slashes++;
      if (part === 0 && ((character === '/' && slashes === 3) || (character === '?' && slashes >= 2))) {
        end();
        part = character === '?' ? 2 : 1;
        if (character === '?') continue;
      } else if (part === 1 && character === '?') {
        end();
        part = 2;
        continue;
      }
      text += character;
    }
    end();
  }
  const [origin, path, query] = parts;
  return { origin, path: path.length === 0 ? [{ text: '/' }] : path, query: part === 2 ? query : undefined };
}

/** A request-target: path and query as they stand. */
export const targetOf = ({ path, query }: SplitAddress): Value =>
  query === undefined ? path : joinTexts([...path, { text: '?' }, ...query]);

/** Texts side by side as one. */
export function joinTexts(value: Value): Value {
  const joined: Piece[] = [];
  for (const piece of value) {
    const last = joined.at(-1);
    if (last !== undefined && 'text' in last && 'text' in piece)
      joined[joined.length - 1] = { text: last.text + piece.text };
    else joined.push(piece);
  }
  return joined;
}

/** The draft with its variables filled in, for what takes no variables. */
export function fillIn(draft: Draft): Draft {
  const fill = (text: string): string => plainText(readValue(text, draft.variables));
  return { ...mapTexts(draft, fill), variables: [] };
}

/** Words that languages keep for themselves or that the emitted code uses: a variable called so gets a tail. */
const TAKEN = new Set(
  (
    'abstract and any args as assert async await base bool boolean break byte case catch char class client const continue data ' +
    'body buffer bytes def default defer del delete do double dynamic else end enum err error except extends false file final ' +
    'finally float fn for form from func function go headers host http if impl implements import in init inner instanceof int ' +
    'interface internal is json lambda let library list local log long loop map match method module mut namespace new next nil ' +
    'none not null object operator or out package parts pass path payload print private proc protected public raise range ref ' +
    'request require response result return self send sealed set short static status str string struct super switch sys task ' +
    'text then this throw time trait true try type typeof undef unless unsafe until uri url use using val value var void when ' +
    'where while with writer yield req res session opener curl client options os answer prompt process console fetch globalthis ' +
    'arguments eval undefined nan infinity exec len open error pid args matches profile exception main t f c na inf a b ' +
    'address addresses attempt before cell download flat flatten folder found holds item items left name names number pages ' +
    'quoted row rows step steps total wait value_at valueat as_json write_csv writecsv formula isformula defused credentials ' +
    'is_own isown auto register signed unsigned volatile extern goto sizeof typedef union restrict inline part form joined size code output ' +
    'payload missing ignore main printf stop stop_unless_ok lastpage last_page first following next_page count came parts link ' +
    'member members reply decode decoder asjson equals isnumber textof collected outgoing ' +
    'stopunlessok flags key line isthere failed decodenext encoder holder numberof numeric prefix known printrow cells run digits ' +
    'erroractionpreference seconds resolve siteof port site isend links spread relative input home event sender foreach pwd ' +
    'shellid psitem kind values number isgiven isnumber found ok errors io fmt strings strconv csv tls bufio regexp urllib ' +
    'requests itertools re copy stopping textbetween text_between locationparameter location_parameter plain start piece pieces jsonof json_of'
  ).split(' '),
);

/** A variable's name in code. */
export const identOf = ({ name }: Variable): string => (TAKEN.has(name.toLowerCase()) ? `${name}Value` : name);
const ENVIRONMENT_PREFIX = 'REQ_';

/**
 * Its name in the environment, and in shells: in capitals, words apart. The prefix is ours alone: shells keep names like
 * RANDOM, SECONDS and UID for themselves, and evaluate what is assigned to some of them.
 */
export const envOf = ({ name }: Variable): string =>
  ENVIRONMENT_PREFIX + name.replace(/([a-z0-9])([A-Z])/g, '$1_$2').toUpperCase();

/** The name of a variable that `envOf` named; undefined for others. */
export function ownNameOf(name: string): string | undefined {
  const own = name.slice(ENVIRONMENT_PREFIX.length);
  return name.startsWith(ENVIRONMENT_PREFIX) && VARIABLE_NAME.test(own) ? own : undefined;
}
