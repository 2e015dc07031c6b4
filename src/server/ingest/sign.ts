import { and, asc, eq, gt, max, sql } from 'drizzle-orm';
import { signatureOf } from '#core/find';
import { type Json, member } from '#core/har';
import type { BodyForm } from '../db/bodies';
import type { Connection } from '../db/connection';
import { prepareDirectly, prepareRows } from '../db/prepared';
import { bodies, captures, entries, signatures } from '../db/schema';

/** Other work waits no longer than this and one entry more. */
const SLICE_MS = 20;

/** Signs some of the entries that are not signed yet. Returns false where there are none left. */
export function signSome(connection: Connection): boolean {
  const { db, sqlite } = connection;
  const lastSigned = db
    .select({ place: sql<number>`coalesce(${max(signatures.place)}, -1)` })
    .from(signatures)
    .where(eq(signatures.captureId, captures.id));
  const [next] = db
    .select({ captureId: captures.id, place: sql<number>`(${lastSigned})` })
    .from(captures)
    .where(
      sql`exists (select 1 from ${entries} where ${entries.captureId} = ${captures.id} and ${entries.place} > (${lastSigned}))`,
    )
    .limit(1)
    .all();
  if (next === undefined) return false;
  const { captureId } = next;
  const unsigned = prepareRows<'last', readonly [number, string, BodyForm | null, Buffer | null]>(
    connection,
    db
      .select({ place: entries.place, raw: entries.raw, form: entries.bodyForm, bytes: bodies.bytes })
      .from(entries)
      .leftJoin(bodies, eq(bodies.sha256, entries.bodySha256))
      .where(and(eq(entries.captureId, captureId), gt(entries.place, sql.placeholder('last'))))
      .orderBy(asc(entries.place)),
  );
  const until = performance.now() + SLICE_MS;
  const signed: { readonly place: number; readonly bits: Buffer | null }[] = [];
  for (const [place, raw, form, bytes] of unsigned({ last: next.place })) {
    signed.push({ place, bits: sign(raw, form, bytes) });
    if (performance.now() >= until) break;
  }
  const insert = prepareDirectly(
    connection,
    db.insert(signatures).values({ captureId, place: sql.placeholder('place'), bits: sql.placeholder('bits') }),
  );
  sqlite.transaction(() => signed.forEach(insert)).immediate();
  return true;
}

/** The signature of an entry and its body; none where what is searched is not what is kept. */
function sign(raw: string, form: BodyForm | null, bytes: Buffer | null): Buffer | null {
  if (!isSignable(JSON.parse(raw) as Json, form)) return null;
  return Buffer.from(signatureOf(bytes === null ? [Buffer.from(raw)] : [Buffer.from(raw), bytes]));
}

/** What is packed, in base64, or in a charset of its own is searched in another form than it is kept in. */
function isSignable(value: Json, form: BodyForm | null): boolean {
  if (form === 'utf16') return false;
  const payload = member(member(value, 'request'), 'postData');
  if (member(payload, 'encoding') !== undefined || member(payload, '_encoding') !== undefined) return false;
  if (form !== 'base64') return true;
  const response = member(value, 'response');
  const headers = member(response, 'headers');
  const mimeType = member(member(response, 'content'), 'mimeType');
  const isPacked =
    Array.isArray(headers) && headers.some((header) => /^content-encoding$/i.test(String(member(header, 'name'))));
  return !isPacked && !/charset/i.test(String(mimeType ?? ''));
}
