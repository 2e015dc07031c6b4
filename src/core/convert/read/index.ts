import { type Draft, draftHeaders, EMPTY_DRAFT, type Variable } from '../draft';
import { mapTexts } from '../texts';
import { markOf, ownNameOf, VARIABLE_MARK } from '../value';
import { readCmd } from './cmd';
import { type Command, FreeNames, type ReadScript, type Surroundings } from './command';
import { readCurl } from './curl';
import { isCurlConfig, readCurlConfig } from './curl-config';
import { readFetchCalls } from './fetch-call';
import { readHttpMessages } from './http-message';
import { readHttpie } from './httpie';
import { readPosix } from './posix';
import { readPowerShell } from './powershell';
import type { ReadRequest } from './request';
import { tidyPaste, withoutRunners } from './tidy';
import { readWebRequests } from './web-request';
import { readWget } from './wget';

/** What requests are read from. To add one: its id here, its reader beside, its line in the list below. */
export const SOURCES = ['curl-sh', 'curl-cmd', 'curl-ps', 'curl-config', 'http', 'fetch'] as const;
export type SourceId = (typeof SOURCES)[number];

/** Drafts that a text came to, and what of it was passed over. */
export interface ReadBack {
  readonly drafts: readonly Draft[];
  readonly notes: readonly string[];
}

interface Found {
  readonly requests: readonly ReadRequest[];
  readonly variables: readonly Variable[];
  readonly notes: readonly string[];
}

const READERS: Record<SourceId, (text: string) => Found> = {
  'curl-sh': (text) => fromShell(readPosix(text)),
  'curl-cmd': (text) => fromShell(readCmd(text)),
  'curl-ps': (text) => {
    const calls = readWebRequests(text);
    if (calls.requests.length > 0 && !/\bcurl(?:\.exe)?\b/i.test(text)) return { ...calls, notes: [] };
    const read = fromShell(readPowerShell(text));
    const own = new Set(read.variables.map(({ name }) => name));
    return {
      ...read,
      requests: [...read.requests, ...calls.requests],
      variables: [...read.variables, ...calls.variables.filter(({ name }) => !own.has(name))],
    };
  },
  'curl-config': (text) => ({
    requests: readCurl(readCurlConfig(text), NOTHING_AROUND),
    variables: [],
    notes: [],
  }),
  http: (text) => ({ requests: readHttpMessages(text), variables: [], notes: [] }),
  fetch: (text) => ({ ...readFetchCalls(text), notes: [] }),
};

/** Reads the requests that stand in a text. Every header is kept as it stands: whoever wrote it wanted it sent. */
export function readBack(pasted: string, source: SourceId): ReadBack {
  // The bytes of a message are its payload's too: nothing of it is mended.
  const { text, notes: mended } =
    source === 'http' ? { text: pasted, notes: [] } : tidyPaste(pasted, source !== 'fetch' && source !== 'curl-config');
  const { requests, variables, notes } = isAddress(text)
    ? { requests: [plainRequest(text.trim())], variables: [], notes: [] }
    : READERS[source](text);
  const places = new Map(variables.map(({ name }, place) => [name, place]));
  const drafts = requests.map(
    (request): Draft =>
      withVariables(
        {
          ...EMPTY_DRAFT,
          method: request.method,
          url: request.url,
          headers: draftHeaders(request.headers, request, 'faithful').map((header) =>
            header.kept
              ? header
              : {
                  ...header,
                  kept:
                    header.role !== 'computed' &&
                    (header.role !== 'encoding' || /^\s*identity\s*$/i.test(header.value)),
                },
          ),
          payload: request.payload,
          wantsCompressed: request.wantsCompressed,
          notes: request.notes,
        },
        variables,
        places,
      ),
  );
  const lacking = drafts.length === 0 && notes.length === 0 ? ['No request with a URL was found in it.'] : [];
  return withNotesOnce(drafts.map(withOwnNames), [...mended, ...notes, ...lacking]);
}

/** What is said of several requests of one paste is said once, of all of them. */
function withNotesOnce(drafts: readonly Draft[], notes: readonly string[]): ReadBack {
  const counts = new Map<string, number>();
  for (const note of drafts.flatMap((draft) => [...new Set(draft.notes)]))
    counts.set(note, (counts.get(note) ?? 0) + 1);
  const shared = [...counts].flatMap(([note, count]) => (count > 1 ? [note] : []));
  return {
    drafts: drafts.map((draft) => ({
      ...draft,
      notes: [...new Set(draft.notes)].filter((note) => !shared.includes(note)),
    })),
    notes: [...new Set([...notes, ...shared])],
  };
}

/** True for nothing but an address. */
const isAddress = (text: string): boolean => /^\s*https?:\/\/[^\s'"]+\s*$/i.test(text);

const plainRequest = (url: string): ReadRequest => ({
  method: 'GET',
  url: url.split('#', 1)[0] ?? '',
  headers: [],
  payload: { type: 'none' },
  wantsCompressed: true,
  notes: [],
});

/** Variables that carry the prefix of those that are written here get their own names back. */
function withOwnNames(draft: Draft): Draft {
  const names = new Map<string, string>();
  for (const { name } of draft.variables) {
    const own = ownNameOf(name);
    if (own !== undefined && !draft.variables.some((variable) => variable.name === own)) names.set(name, own);
  }
  if (names.size === 0) return draft;
  const rename = (text: string): string =>
    text.replace(/‹(\w+)›/g, (mark, name: string) => (names.has(name) ? `‹${names.get(name)}›` : mark));
  return {
    ...mapTexts(draft, rename),
    variables: draft.variables.map((variable) => ({ ...variable, name: names.get(variable.name) ?? variable.name })),
  };
}

/** What a text looks like; undefined where it looks like none of these. */
export function guessSource(pasted: string): SourceId | undefined {
  const { text } = tidyPaste(pasted);
  if (isAddress(text)) return 'curl-sh';
  if (/\b(?:Invoke-(?:WebRequest|RestMethod)|iwr|irm)\b/i.test(text)) return 'curl-ps';
  if (/\bXMLHttpRequest\b|\.setRequestHeader\s*\(/.test(text)) return 'fetch';
  if (/\bfetch\s*\(/.test(text) && !/^\s*(\$ )?curl\b/m.test(text)) return 'fetch';
  if (/\bcurl(\.exe)?\b/.test(text)) {
    if (/\^\s*$/m.test(text) || /\^["&|<>%]/.test(text)) return 'curl-cmd';
    if (/`\s*$/m.test(text) || /curl\.exe|\$env:|\$PSNative/.test(text)) return 'curl-ps';
    return 'curl-sh';
  }
  if (
    /(?:^|[|;&])\s*(?:[A-Za-z_]\w*=\S*\s+|sudo\s+)*(?:wget2?|https?)\s+(?!\d+(?:\s|$))(?::[\d/]|[^:\s])/m.test(text) &&
    !/^\s*https?:\/\//.test(text)
  )
    return 'curl-sh';
  if (isCurlConfig(text)) return 'curl-config';
  if (/^:method[:\s]/m.test(text)) return 'http';
  return /^\s*(?:###[^\n]*\s+(?:(?:#|\/\/)[^\n]*\s+)*)?[A-Z-]+ \S+( HTTP\/\d)?/.test(text) &&
    (/^[A-Za-z-]+:/m.test(text) || /^\s*(?:###[^\n]*\s+)?[A-Z]+ https?:/.test(text))
    ? 'http'
    : undefined;
}

/** Words of a shell's own grammar: no commands that somebody would miss. */
const GRAMMAR = /^(?:[{}!]|\[\[?|case|do|done|elif|else|esac|fi|for|function|if|in|then|until|while|true|false)$/;

/** A file of options sets no variables. */
const NOTHING_AROUND: Surroundings = { files: new Map(), values: new Map(), addUnknown: markOf };

const PROGRAMS: Readonly<Record<string, (command: Command, around: Surroundings) => ReadRequest[]>> = {
  curl: readCurl,
  wget: readWget,
  wget2: readWget,
  http: readHttpie,
  https: readHttpie,
};

function fromShell({ commands, variables, files, notes }: ReadScript): Found {
  const others = new Set<string>();
  const known = new Map(variables);
  const free = new FreeNames();
  const addUnknown = (given: string): string => {
    const name = free.next(given, (one) => known.has(one));
    known.set(name, { value: '', isSecret: true });
    return markOf(name);
  };
  const requests = commands.flatMap((command) => {
    const words = withoutRunners(command.words);
    const program = (words[0] ?? '').replace(/^.*[/\\]/, '').replace(/\.exe$/i, '');
    const read = Object.hasOwn(PROGRAMS, program) ? PROGRAMS[program] : undefined;
    if (read !== undefined) return read({ ...command, words }, { files, values: known, addUnknown });
    if (program !== '' && !GRAMMAR.test(program)) others.add(program);
    return [];
  });
  const passed = [...others].map(
    (name) => `"${name.slice(0, 40)}" is not a command that sends a request, and was skipped.`,
  );
  return {
    requests,
    variables: [...known].map(([name, one]) => ({ name, ...one })),
    notes: [...notes, ...passed],
  };
}

/** A draft with the variables whose marks stand in it, in the order of the script. */
function withVariables(draft: Draft, variables: readonly Variable[], places: ReadonlyMap<string, number>): Draft {
  const used = new Set<string>();
  mapTexts(draft, (text) => {
    for (const [, name = ''] of text.matchAll(VARIABLE_MARK)) used.add(name);
    return text;
  });
  const found = [...used].flatMap((name) => places.get(name) ?? []).sort((a, b) => a - b);
  return { ...draft, variables: found.flatMap((place) => variables[place] ?? []) };
}
