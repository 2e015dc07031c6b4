import { analyse, takeFacts } from '#core/analysis';
import { type ComparedLoad, compareSides, takeTraits } from '#core/compare';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { captureOf } from './made';

// How long comparing two loads takes, against analysing one of them in the same run.

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 5);

function readAll(text: string) {
  const exchanges: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) exchanges.push(normaliseEntry(value, place));
    },
  });
  reader.push(new TextEncoder().encode(text));
  return { exchanges, capture: reader.end().capture };
}

function loadOf({ exchanges, capture }: ReturnType<typeof readAll>): ComparedLoad {
  const { rows, overview } = analyse(exchanges.map(takeFacts), capture.pages, capture.completeness);
  return {
    name: 'made',
    page: overview.pages[0],
    rows,
    traits: exchanges.map((exchange) => takeTraits(exchange, String(exchange.index % 7))),
    findings: [],
    foretold: undefined,
  };
}

const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1] ?? 0;

function time(run: () => unknown): number {
  const times = Array.from({ length: ROUNDS }, () => {
    const from = performance.now();
    run();
    return performance.now() - from;
  });
  return median(times);
}

for (const count of [1000, 10_000]) {
  const [a, b] = [readAll(captureOf(count)), readAll(captureOf(count, 40))];
  const analysedMs = time(() => loadOf(a));
  const [own, other] = [loadOf(a), loadOf(b)];
  const comparedMs = time(() => compareSides([own], [other]));
  const ratio = (comparedMs / analysedMs).toFixed(2);
  process.stdout.write(
    `${count} against ${count}: ${Math.round(comparedMs)} ms, ${ratio} x analysing one (${Math.round(analysedMs)} ms)\n`,
  );
}
