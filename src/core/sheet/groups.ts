import { readGraphql } from '../content';
import type { HeaderRole } from '../convert';
import { payloadBytes } from '../convert';
import { findHeader } from '../model';
import { formatExactBytes } from '../wording';
import { layoutOf } from './layouts';
import type { SheetLine, SheetRead } from './read';
import type { LayoutId } from './sheet';

/** Lines that stand together and are there for the same reason. */
export interface SheetGroup {
  readonly id: 'address' | 'payload' | HeaderRole;
  /** Places of its first and last line, from 0. */
  readonly from: number;
  readonly to: number;
  readonly label: string;
  /** Why its lines are sent or left out: once for each role, where it comes first. */
  readonly reason: string | undefined;
  readonly canStrike: boolean;
}

const LABELS: Readonly<Record<HeaderRole, string>> = {
  own: 'the request itself',
  credential: 'who asks',
  'browser-colour': 'only browsers add it',
  computed: 'the client computes it',
  conditional: 'asks for what changed, or for a part',
  encoding: 'how it may be compressed',
};

const REASONS: Readonly<Record<HeaderRole, { readonly sent: string; readonly leftOut: string }>> = {
  own: { sent: '', leftOut: 'left out by hand' },
  credential: { sent: 'keep it to yourself', leftOut: 'left out by hand' },
  'browser-colour': {
    sent: 'sent as the browser did; the server may not need it',
    leftOut: 'left out; the server may not need it',
  },
  computed: {
    sent: 'sent as written here, whatever it should be',
    leftOut: 'left out: whatever sends this sets its own',
  },
  conditional: {
    sent: 'the response may be a 304 or a part',
    leftOut: 'left out: the response would be a 304 or a part',
  },
  encoding: { sent: 'sent as it is', leftOut: 'left out: whatever sends this asks for what it can decompress' },
};

/** The groups of a sheet's lines from above, as its margin brackets them. */
export function groupsOf({ draft, lines }: SheetRead, layout: LayoutId): SheetGroup[] {
  const spans: { readonly id: SheetGroup['id']; readonly from: number; to: number }[] = [];
  lines.forEach((line, at) => {
    const id = groupOf(line, draft.headers);
    if (id === undefined) return;
    const last = spans.at(-1);
    // A blank line of the payload is the payload's.
    if (last?.id === id && (last.to === at - 1 || id === 'payload')) last.to = at;
    else spans.push({ id, from: at, to: at });
  });
  const groups = spans.map((span): SheetGroup => ({ ...span, label: '', reason: undefined, canStrike: false }));
  const seen = new Set<string>();
  return groups.map((group) => {
    const isFirst = !seen.has(group.id);
    seen.add(group.id);
    if (group.id === 'address') return { ...group, label: 'the address' };
    if (group.id === 'payload') {
      const size = payloadBytes(draft.payload)?.length;
      const bytes = size === undefined ? '' : `, ${formatExactBytes(size)}`;
      return { ...group, label: `${operationOf(draft)}${layoutOf(layout).label}${bytes}` };
    }
    const ofRole = draft.headers.filter(({ role }) => role === group.id);
    const reason = REASONS[group.id][ofRole.some(({ kept }) => kept) ? 'sent' : 'leftOut'];
    return {
      ...group,
      label: LABELS[group.id],
      reason: isFirst && reason !== '' ? reason : undefined,
      canStrike: true,
    };
  });
}

/** The GraphQL operation that a payload sends, by its name. */
function operationOf({ url, headers, payload }: SheetRead['draft']): string {
  if (payload.type !== 'text') return '';
  const calls = readGraphql(url, findHeader(headers, 'content-type'), payload.text)?.calls ?? [];
  const names = calls.map(({ name, type }) => `${type ?? 'operation'} ${name ?? 'without a name'}`);
  return names.length === 0 ? '' : `GraphQL ${names.slice(0, 3).join(', ')}; `;
}

function groupOf(line: SheetLine, headers: SheetRead['draft']['headers']): SheetGroup['id'] | undefined {
  switch (line.kind) {
    case 'start':
    case 'path':
    case 'query':
      return 'address';
    case 'header':
      return headers[line.header ?? -1]?.role;
    case 'payload':
      return 'payload';
    case 'gap':
      return undefined;
    default:
      return line.kind satisfies never;
  }
}
