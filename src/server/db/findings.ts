import { and, eq, isNull, ne, or, sql } from 'drizzle-orm';
import { FINDINGS_VERSION, type FoundInCapture } from '#core/diagnose';
import type { Connection } from './connection';
import { captures, dismissals, findings } from './schema';

/** What was found in a capture, or why its diagnosis broke off. */
export interface Found extends FoundInCapture {
  readonly problem: string | undefined;
}

/** What was found in a capture; undefined while it is still to be diagnosed. */
export function findFindings({ db }: Connection, captureId: string): Found | undefined {
  const row = db
    .select({ found: findings.findings, problem: findings.problem })
    .from(findings)
    .where(and(eq(findings.captureId, captureId), eq(findings.version, FINDINGS_VERSION)))
    .get();
  if (row === undefined) return undefined;
  return { ...(JSON.parse(row.found) as FoundInCapture), problem: row.problem ?? undefined };
}

/** Whether a capture has been diagnosed by the rules of this version. */
export const hasFindings = ({ db }: Connection, captureId: string): boolean =>
  db
    .select({ id: findings.captureId })
    .from(findings)
    .where(and(eq(findings.captureId, captureId), eq(findings.version, FINDINGS_VERSION)))
    .get() !== undefined;

export function writeFindings({ db }: Connection, captureId: string, found: Found): void {
  const values = {
    captureId,
    version: FINDINGS_VERSION,
    findings: JSON.stringify({ findings: found.findings, byPage: found.byPage } satisfies FoundInCapture),
    problem: found.problem ?? null,
  };
  db.insert(findings).values(values).onConflictDoUpdate({ target: findings.captureId, set: values }).run();
}

/** The version of a diagnosis that is under way: one that is found so at a start was ended with its thread. */
const UNDER_WAY = -FINDINGS_VERSION;
const ENDED_ONCE = 'ended once';

/** Notes that a diagnosis begins. False where it was ended with its thread twice, as one is that exhausts memory. */
export function beginDiagnosis({ db }: Connection, captureId: string): boolean {
  const before = db
    .select({ problem: findings.problem })
    .from(findings)
    .where(and(eq(findings.captureId, captureId), eq(findings.version, UNDER_WAY)))
    .get();
  if (before?.problem === ENDED_ONCE) return false;
  const values = {
    captureId,
    version: UNDER_WAY,
    findings: '[]',
    problem: before === undefined ? null : ENDED_ONCE,
  };
  db.insert(findings).values(values).onConflictDoUpdate({ target: findings.captureId, set: values }).run();
  return true;
}

/** Whether a diagnosis that began is still to be ended: what changes a capture has it begin anew. */
export const isUnderWay = ({ db }: Connection, captureId: string): boolean =>
  db
    .select({ id: findings.captureId })
    .from(findings)
    .where(and(eq(findings.captureId, captureId), eq(findings.version, UNDER_WAY)))
    .get() !== undefined;

export function dropFindings({ db }: Connection, captureId: string): void {
  db.delete(findings).where(eq(findings.captureId, captureId)).run();
}

/** The next capture that the rules of this version have not seen: the one that is waited for, else the oldest. */
export function nextUndiagnosed({ db }: Connection, first?: string): string | undefined {
  return db
    .select({ id: captures.id })
    .from(captures)
    .leftJoin(findings, eq(findings.captureId, captures.id))
    .where(and(isNull(captures.deletedAt), or(isNull(findings.version), ne(findings.version, FINDINGS_VERSION))))
    .orderBy(sql`${captures.id} = ${first ?? ''} desc`, captures.importedAt)
    .limit(1)
    .get()?.id;
}

/** Reasons for which findings were dismissed, by their keys. */
export function readDismissals({ db }: Connection, captureId: string): Record<string, string> {
  const rows = db.select().from(dismissals).where(eq(dismissals.captureId, captureId)).all();
  return Object.fromEntries(rows.map(({ key, reason }) => [key, reason]));
}

/** Sets a finding aside, or takes that back where no reason is given. */
export function writeDismissal({ db }: Connection, captureId: string, key: string, reason: string | undefined): void {
  const own = and(eq(dismissals.captureId, captureId), eq(dismissals.key, key));
  db.delete(dismissals).where(own).run();
  if (reason !== undefined) db.insert(dismissals).values({ captureId, key, reason }).run();
}
