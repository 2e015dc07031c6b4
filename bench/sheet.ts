import { EMPTY_DRAFT } from '#core/convert';
import { differences, groupsOf, readSheet, writeSheet } from '#core/sheet';

// What a key costs on the sheet of a large request: its text is read, grouped and held against the captured one each time.
// Beside it JSON.parse of the payload, in the same run, and whether the time grows faster than the payload.

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 5);

function fastestMs(work: () => unknown): number {
  let fastest = Number.POSITIVE_INFINITY;
  for (let round = 0; round < ROUNDS; round++) {
    const from = performance.now();
    work();
    fastest = Math.min(fastest, performance.now() - from);
  }
  return fastest;
}

const payloadOf = (count: number): string =>
  JSON.stringify(Array.from({ length: count }, (_, id) => ({ id, name: `hut ${id}`, note: 'x'.repeat(60) })));

for (const count of [2000, 10_000, 50_000]) {
  const text = payloadOf(count);
  const baseline = fastestMs(() => JSON.parse(text));
  const captured = writeSheet({ ...EMPTY_DRAFT, url: 'https://a.example/', payload: { type: 'text', text } });
  const sheet = { ...captured, text: captured.text.replace('hut 7', 'hut 8') };
  const ms = fastestMs(() => {
    groupsOf(readSheet(sheet, EMPTY_DRAFT), sheet.layout);
    differences(captured, sheet);
  });
  console.log(
    `${(text.length / 1e6).toFixed(2)} MB: ${ms.toFixed(0)} ms a key, ${(ms / baseline).toFixed(1)} x JSON.parse (${baseline.toFixed(1)} ms)`,
  );
}
