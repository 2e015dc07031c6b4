import { PHASES, type PhaseName, packFailure, unpackFailure } from '../model';
import type { ExchangeRow } from './exchange-row';

/**
 * How a field of a row is kept where rows are columns: texts by their distinct values, flags as booleans, the phases as
 * one number each, a failure as one text. `json` is its name in what the command line prints; without one it stays inside.
 */
interface RowField {
  readonly kept: 'text' | 'number' | 'flag' | 'phases' | 'failure';
  readonly json?: string;
}

/** Every field of a row, in the order in which it is printed. Columns, reading and JSON follow from it. */
export const ROW_FIELDS = {
  index: { kept: 'number', json: 'index' },
  pageId: { kept: 'text', json: 'page' },
  pageInferred: { kept: 'flag' },
  method: { kept: 'text', json: 'method' },
  url: { kept: 'text', json: 'url' },
  host: { kept: 'text', json: 'host' },
  status: { kept: 'number', json: 'status' },
  protocol: { kept: 'text' },
  kind: { kept: 'text', json: 'kind' },
  kindEvidence: { kept: 'text' },
  source: { kept: 'text', json: 'source' },
  sourceEvidence: { kept: 'text', json: 'sourceEvidence' },
  fetchedFor: { kept: 'number', json: 'fetchedFor' },
  fetchedAs: { kept: 'number', json: 'fetchedAs' },
  party: { kept: 'text', json: 'party' },
  startedAt: { kept: 'number' },
  startMs: { kept: 'number', json: 'startMs' },
  timeMs: { kept: 'number', json: 'timeMs' },
  phases: { kept: 'phases', json: 'phases' },
  wireBytes: { kept: 'number', json: 'wireBytes' },
  bodyBytes: { kept: 'number', json: 'bodyBytes' },
  mimeType: { kept: 'text', json: 'mimeType' },
  operation: { kept: 'text' },
  payloadHash: { kept: 'number' },
  isStorable: { kept: 'flag' },
  freshSeconds: { kept: 'number' },
  errorInside: { kept: 'text', json: 'errorInside' },
  findings: { kept: 'text' },
  failure: { kept: 'failure', json: 'failure' },
  connection: { kept: 'text' },
  parent: { kept: 'number', json: 'parent' },
  parentEvidence: { kept: 'text', json: 'parentEvidence' },
  namedBy: { kept: 'number' },
  preflightFor: { kept: 'number' },
  holds: { kept: 'text' },
  depth: { kept: 'number', json: 'depth' },
  endpoint: { kept: 'text', json: 'endpoint' },
  isOnRoute: { kept: 'flag' },
} as const satisfies Readonly<Record<keyof ExchangeRow, RowField>>;

type Fields = typeof ROW_FIELDS;
type KeptAs<Kept extends RowField['kept']> = {
  [Field in keyof Fields]: Fields[Field]['kept'] extends Kept ? Field : never;
}[keyof Fields];

/** Columns of texts, numbers and flags, as rows become them. */
export type TextColumn = KeptAs<'text' | 'failure'>;
export type NumberColumn = KeptAs<'number'> | PhaseName;
export type FlagColumn = KeptAs<'flag'>;
export type RowColumn = TextColumn | NumberColumn | FlagColumn;

const NAMES = Object.keys(ROW_FIELDS) as (keyof ExchangeRow)[];
const keptAs = (...kept: RowField['kept'][]) => NAMES.filter((name) => kept.includes(ROW_FIELDS[name].kept));

export const TEXT_COLUMNS = keptAs('text', 'failure') as readonly TextColumn[];
export const NUMBER_COLUMNS: readonly NumberColumn[] = [...(keptAs('number') as KeptAs<'number'>[]), ...PHASES];
export const FLAG_COLUMNS = keptAs('flag') as readonly FlagColumn[];

/** A row's value in a column, as it is kept there. */
export function columnOf(row: ExchangeRow, column: RowColumn): string | number | boolean | undefined {
  if (column === 'failure') return packFailure(row.failure);
  return isPhase(column) ? row.phases[column] : row[column];
}

const isPhase = (column: RowColumn): column is PhaseName => (PHASES as readonly string[]).includes(column);

/**
 * Makes rows of columns, each asked once for its values and then what stands at a place. Long because each field is set
 * here, once: an object that grows field by field takes ten times as long to make, and a capture has a hundred thousand.
 */
export function raiseRow(column: <Value>(name: RowColumn) => (place: number) => Value): (place: number) => ExchangeRow {
  const of = {
    index: column<ExchangeRow['index']>('index'),
    pageId: column<ExchangeRow['pageId']>('pageId'),
    pageInferred: column<1 | undefined>('pageInferred'),
    method: column<ExchangeRow['method']>('method'),
    url: column<ExchangeRow['url']>('url'),
    host: column<ExchangeRow['host']>('host'),
    status: column<ExchangeRow['status']>('status'),
    protocol: column<ExchangeRow['protocol']>('protocol'),
    kind: column<ExchangeRow['kind']>('kind'),
    kindEvidence: column<ExchangeRow['kindEvidence']>('kindEvidence'),
    source: column<ExchangeRow['source']>('source'),
    sourceEvidence: column<ExchangeRow['sourceEvidence']>('sourceEvidence'),
    fetchedFor: column<ExchangeRow['fetchedFor']>('fetchedFor'),
    fetchedAs: column<ExchangeRow['fetchedAs']>('fetchedAs'),
    party: column<ExchangeRow['party']>('party'),
    startedAt: column<ExchangeRow['startedAt']>('startedAt'),
    startMs: column<ExchangeRow['startMs']>('startMs'),
    timeMs: column<ExchangeRow['timeMs']>('timeMs'),
    wireBytes: column<ExchangeRow['wireBytes']>('wireBytes'),
    bodyBytes: column<ExchangeRow['bodyBytes']>('bodyBytes'),
    mimeType: column<ExchangeRow['mimeType']>('mimeType'),
    operation: column<ExchangeRow['operation']>('operation'),
    payloadHash: column<ExchangeRow['payloadHash']>('payloadHash'),
    isStorable: column<1 | undefined>('isStorable'),
    freshSeconds: column<ExchangeRow['freshSeconds']>('freshSeconds'),
    errorInside: column<ExchangeRow['errorInside']>('errorInside'),
    findings: column<ExchangeRow['findings']>('findings'),
    connection: column<ExchangeRow['connection']>('connection'),
    parent: column<ExchangeRow['parent']>('parent'),
    parentEvidence: column<ExchangeRow['parentEvidence']>('parentEvidence'),
    namedBy: column<ExchangeRow['namedBy']>('namedBy'),
    preflightFor: column<ExchangeRow['preflightFor']>('preflightFor'),
    holds: column<ExchangeRow['holds']>('holds'),
    depth: column<ExchangeRow['depth']>('depth'),
    endpoint: column<ExchangeRow['endpoint']>('endpoint'),
    isOnRoute: column<1 | undefined>('isOnRoute'),
    failure: column<string | undefined>('failure'),
    blockedMs: column<number | undefined>('blockedMs'),
    dnsMs: column<number | undefined>('dnsMs'),
    connectMs: column<number | undefined>('connectMs'),
    tlsMs: column<number | undefined>('tlsMs'),
    sendMs: column<number | undefined>('sendMs'),
    waitMs: column<number | undefined>('waitMs'),
    receiveMs: column<number | undefined>('receiveMs'),
  };
  return (place) => ({
    index: of.index(place),
    pageId: of.pageId(place),
    pageInferred: of.pageInferred(place) === 1,
    method: of.method(place),
    url: of.url(place),
    host: of.host(place),
    status: of.status(place),
    protocol: of.protocol(place),
    kind: of.kind(place),
    kindEvidence: of.kindEvidence(place),
    source: of.source(place),
    sourceEvidence: of.sourceEvidence(place),
    fetchedFor: of.fetchedFor(place),
    fetchedAs: of.fetchedAs(place),
    party: of.party(place),
    startedAt: of.startedAt(place),
    startMs: of.startMs(place),
    timeMs: of.timeMs(place),
    phases: {
      blockedMs: of.blockedMs(place),
      dnsMs: of.dnsMs(place),
      connectMs: of.connectMs(place),
      tlsMs: of.tlsMs(place),
      sendMs: of.sendMs(place),
      waitMs: of.waitMs(place),
      receiveMs: of.receiveMs(place),
    },
    wireBytes: of.wireBytes(place),
    bodyBytes: of.bodyBytes(place),
    mimeType: of.mimeType(place),
    operation: of.operation(place),
    payloadHash: of.payloadHash(place),
    isStorable: of.isStorable(place) === 1,
    freshSeconds: of.freshSeconds(place),
    errorInside: of.errorInside(place),
    findings: of.findings(place),
    failure: unpackFailure(of.failure(place)),
    connection: of.connection(place),
    parent: of.parent(place),
    parentEvidence: of.parentEvidence(place),
    namedBy: of.namedBy(place),
    preflightFor: of.preflightFor(place),
    holds: of.holds(place),
    depth: of.depth(place),
    endpoint: of.endpoint(place),
    isOnRoute: of.isOnRoute(place) === 1,
  });
}
