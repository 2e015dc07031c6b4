import { analyse, takeFacts } from '#core/analysis';
import { bytesFromText } from '#core/content';
import { type Diagnosis, diagnoseAll, ScriptWords, subjectOf, takeEvidence } from '#core/diagnose';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { captureOf } from './made';

// How long the analysis of a capture takes: rows in their context, routes, findings and what they cost, without the reading of
// its bodies. Against JSON.parse of the same capture in the same run, and against itself at twice and four times the size.

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 5);
function readAll(text: string) {
  const exchanges: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) exchanges.push(normaliseEntry(value, place));
    },
  });
  reader.push(bytesFromText(text));
  return { exchanges, capture: reader.end().capture };
}

const TOOLS = { hash: () => '', compressedLength: () => 0, digest: () => '' };
const median = (values: readonly number[]): number =>
  values.toSorted((a, b) => a - b)[values.length >> 1] ?? Number.NaN;

function timed<T>(run: () => T): { readonly ms: number; readonly result: T } {
  const from = performance.now();
  const result = run();
  return { ms: performance.now() - from, result };
}

let before: number | undefined;
for (const count of (process.env['BENCH_SIZES'] ?? '10000,20000,40000').split(',').map(Number)) {
  const text = captureOf(count);
  const { exchanges, capture } = readAll(text);
  const facts = exchanges.map(takeFacts);
  const evidence: Diagnosis['evidence'] = new Map(
    exchanges.map((one) => [one.index, takeEvidence(one, undefined, TOOLS)]),
  );
  const rounds = Array.from({ length: ROUNDS }, () => {
    const parse = timed(() => JSON.parse(text) as unknown);
    const rows = timed(() => analyse(facts, capture.pages, capture.completeness));
    const found = timed(() =>
      diagnoseAll(subjectOf(rows.result.rows, rows.result.overview, evidence, new ScriptWords())),
    );
    return { parse: parse.ms, rows: rows.ms, found: found.ms, findings: found.result.findings.length };
  });
  const [parse, rows, found] = [
    median(rounds.map((one) => one.parse)),
    median(rounds.map((one) => one.rows)),
    median(rounds.map((one) => one.found)),
  ];
  const whole = rows + found;
  console.log(
    `${String(count).padStart(6)} exchanges: rows and routes ${rows.toFixed(0)} ms, rules and costs ${found.toFixed(0)} ms (${rounds[0]?.findings} findings), together ${whole.toFixed(0)} ms, ${(whole / parse).toFixed(1)} x JSON.parse${before === undefined ? '' : `, ${(whole / before).toFixed(2)} x half as many`}`,
  );
  before = whole;
}
