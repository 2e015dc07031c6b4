import { type Draft, draftHeaders, EMPTY_DRAFT, type Variable } from '../draft';
import { ownNameOf } from '../value';
import { readCmd } from './cmd';
import type { ReadScript } from './command';
import { readCurl } from './curl';
import { readFetchCalls } from './fetch-call';
import { readHttpMessages } from './http-message';
import { readPosix } from './posix';
import { readPowerShell } from './powershell';
import type { ReadRequest } from './request';

/** What requests are read from. To add one: its id here, its reader beside, its line in the list below. */
export const SOURCES = ['curl-sh', 'curl-cmd', 'curl-ps', 'http', 'fetch'] as const;
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
  'curl-ps': (text) => fromShell(readPowerShell(text)),
  http: (text) => ({ requests: readHttpMessages(text), variables: [], notes: [] }),
  fetch: (text) => ({ ...readFetchCalls(text), notes: [] }),
};

/** Reads the requests that stand in a text. Every header is kept as it stands: whoever wrote it wanted it sent. */
export function readBack(text: string, source: SourceId): ReadBack {
  const { requests, variables, notes } = READERS[source](text);
  const drafts = requests.map(
    (request): Draft => ({
      ...EMPTY_DRAFT,
      method: request.method,
      url: request.url,
      headers: draftHeaders(request.headers, request, 'faithful').map((header) =>
        header.kept
          ? header
          : {
              ...header,
              kept:
                header.role !== 'computed' && (header.role !== 'encoding' || /^\s*identity\s*$/i.test(header.value)),
            },
      ),
      payload: request.payload,
      wantsCompressed: request.wantsCompressed,
      variables: usedBy(request, variables),
      notes: request.notes,
    }),
  );
  return { drafts: drafts.map(withOwnNames), notes };
}

/** Variables that carry the prefix of those that are written here get their own names back. */
function withOwnNames(draft: Draft): Draft {
  const names = new Map<string, string>();
  for (const { name } of draft.variables) {
    const own = ownNameOf(name);
    if (own !== undefined && !draft.variables.some((variable) => variable.name === own)) names.set(name, own);
  }
  if (names.size === 0) return draft;
  const rename = (text: string): string =>
    text.replace(/\{\{(\w+)\}\}/g, (mark, name: string) => (names.has(name) ? `{{${names.get(name)}}}` : mark));
  const { payload } = draft;
  return {
    ...draft,
    url: rename(draft.url),
    headers: draft.headers.map((header) => ({ ...header, value: rename(header.value) })),
    payload: payload.type === 'text' ? { type: 'text', text: rename(payload.text) } : payload,
    variables: draft.variables.map((variable) => ({ ...variable, name: names.get(variable.name) ?? variable.name })),
  };
}

/** What a text looks like; undefined where it looks like none of these. */
export function guessSource(text: string): SourceId | undefined {
  if (/\bfetch\s*\(/.test(text) && !/^\s*(\$ )?curl\b/m.test(text)) return 'fetch';
  if (/\bcurl(\.exe)?\b/.test(text)) {
    if (/\^\s*$/m.test(text) || /\^["&|<>%]/.test(text)) return 'curl-cmd';
    if (/`\s*$/m.test(text) || /curl\.exe|\$env:|\$PSNative/.test(text)) return 'curl-ps';
    return 'curl-sh';
  }
  return /^\s*[A-Z-]+ \S+( HTTP\/\d)?/.test(text) && /^[A-Za-z-]+:/m.test(text) ? 'http' : undefined;
}

function fromShell({ commands, variables, files, notes }: ReadScript): Found {
  const others = new Set<string>();
  const requests = commands.flatMap((command) => {
    const program = (command.words[0] ?? '').replace(/^.*[/\\]/, '').replace(/\.exe$/i, '');
    if (program === 'curl') return readCurl(command, files);
    if (!/^[\w.-]*$/.test(program) || program !== '') others.add(program);
    return [];
  });
  const passed = [...others].map((name) => `"${name.slice(0, 40)}" is not a curl command, and was skipped.`);
  return {
    requests,
    variables: [...variables].map(([name, one]) => ({ name, ...one })),
    notes: [...notes, ...passed],
  };
}

/** The variables whose marks stand in a request. */
function usedBy(request: ReadRequest, variables: readonly Variable[]): Variable[] {
  const { payload } = request;
  const text = [
    request.url,
    ...request.headers.map(({ value }) => value),
    payload.type === 'text' ? payload.text : '',
  ].join('\n');
  return variables.filter(({ name }) => text.includes(`{{${name}}}`));
}
