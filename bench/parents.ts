import { readdirSync, readFileSync } from 'node:fs';
import { analyse, type ExchangeFacts, takeFacts } from '#core/analysis';
import { diagnoseAll, subjectOf } from '#core/diagnose';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { beginReading } from '#server/diagnose';

// How often who asked for what is inferred right where the recorder's own word for it is hidden, and how long it takes
// to analyse and diagnose exchanges whose bodies have been read.

const CAPTURES = new URL('../demo/captures/', import.meta.url);
const MANY = 10_000;

function readCapture(name: string) {
  const exchanges: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) exchanges.push(normaliseEntry(value, place));
    },
  });
  reader.push(readFileSync(new URL(name, CAPTURES)));
  const { capture } = reader.end();
  return { exchanges, ...capture };
}

for (const name of readdirSync(CAPTURES).filter((file) => file.endsWith('.har'))) {
  const { exchanges, pages, completeness } = readCapture(name);
  const truth = analyse(exchanges.map(takeFacts), pages, completeness).rows;
  const hidden = exchanges.map((exchange): Exchange => ({ ...exchange, initiatorUrl: undefined }));
  const diagnoser = beginReading(analyse(hidden.map(takeFacts), pages, completeness).rows);
  for (const exchange of hidden) diagnoser.add(exchange);
  const inferred = new Map(diagnoser.end(pages, completeness).rows.map((row) => [row.index, row.parent]));
  const declared = truth.filter(({ parentEvidence }) => parentEvidence === 'declared');
  const right = declared.filter(({ index, parent }) => inferred.get(index) === parent).length;
  const share = ((right / declared.length) * 100).toFixed(1);
  console.log(`${name}: ${right} of ${declared.length} parents inferred right, ${share} % (wanted: 90)`);
}

/** A load of so many exchanges, the demo's repeated, each a little later than the one before. */
function repeated(count: number): { readonly facts: ExchangeFacts[]; readonly references: Map<number, number> } {
  const { exchanges } = readCapture('alba-norte-first-visit.har');
  const facts = Array.from({ length: count }, (_, at): ExchangeFacts => {
    const one = exchanges[at % exchanges.length];
    if (one === undefined) throw new Error('the demo capture is empty');
    const startedAt = (one.startedAt ?? 0) + Math.floor(at / exchanges.length) * 40;
    return takeFacts({
      ...one,
      index: at as Exchange['index'],
      startedAt: startedAt as NonNullable<Exchange['startedAt']>,
    });
  });
  return { facts, references: new Map() };
}

const measure = (count: number): number => {
  const { facts } = repeated(count);
  const { pages } = readCapture('alba-norte-first-visit.har');
  const rounds = Array.from({ length: 3 }, () => {
    const since = performance.now();
    const { rows, overview } = analyse(facts, pages, { type: 'whole' });
    diagnoseAll(subjectOf(rows, overview, new Map()));
    return performance.now() - since;
  });
  return Math.min(...rounds);
};
const [half, whole] = [measure(MANY / 2), measure(MANY)];
const growth = (whole / half).toFixed(2);
console.log(
  `Analysis, route and rules over ${MANY} exchanges: ${whole.toFixed(0)} ms (wanted: 500), ${growth} x half as many.`,
);
