import type { SentInReport } from '#core/report';
import type { Run, RunKind } from '#core/wire';
import { formatPlural } from '#core/wording';
import type { Connection } from '../db/connection';
import { runsOfCapture } from '../db/runs';
import { type Recorded, recordedInStore } from './recorded';

const WHAT: Readonly<Record<RunKind, string>> = { trim: 'Trim', series: 'Series', grow: 'Growing', watch: 'Watch' };

/** What was sent many times of the drafts of a capture, and what came of it, the oldest first; and that as captures. */
export function sentInReport(
  connection: Connection,
  captureId: string,
): { readonly sent: readonly SentInReport[]; readonly sentThere: readonly Recorded[] } {
  const runs = runsOfCapture(connection, captureId);
  return {
    sent: runs.map(({ run, draftName }) => ({
      draft: draftName,
      what: WHAT[run.order.kind],
      sentence: run.sentence,
      lines: linesOf(run),
    })),
    sentThere: runs.flatMap(({ run }) => (run.sends === 0 ? [] : [recordedInStore(connection, run.id)])),
  };
}

function linesOf({ sends, result: { trim, grow } }: Run): string[] {
  return [
    `${formatPlural(sends, 'request')} sent`,
    ...(trim?.needed ?? []).map(({ name, reason }) => `${name}: ${reason}`),
    ...(trim === undefined || trim.leftOut.length === 0 ? [] : [`can be left out: ${trim.leftOut.join(', ')}`]),
    ...(grow?.told ?? []),
  ];
}
