import { type Draft, EMPTY_DRAFT, maskSecrets, TARGETS } from '#core/convert';

// Large requests as code, in every target: how long it takes beside quoting the same text as JSON, and whether it grows faster
// than the request does. Then the search for secrets in payloads that are written to slow it down.

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 5);
const SMALL_CHARS = 1_000_000;
const TIMES = 5;

const textOf = (chars: number): string => JSON.stringify({ note: 'häuser "x" \n'.repeat(Math.ceil(chars / 14)) });
const withText = (chars: number): Draft => ({
  ...EMPTY_DRAFT,
  method: 'POST',
  url: 'https://a.example/',
  payload: { type: 'text', text: textOf(chars) },
});
const withAddress = (chars: number): Draft => ({
  ...EMPTY_DRAFT,
  url: `https://a.example/?q=${'a%20b+'.repeat(Math.ceil(chars / 6))}`,
});

function fastestMs(work: () => unknown): number {
  let fastest = Number.POSITIVE_INFINITY;
  for (let round = 0; round < ROUNDS; round++) {
    const from = performance.now();
    work();
    fastest = Math.min(fastest, performance.now() - from);
  }
  return fastest;
}

const [small, large, address] = [withText(SMALL_CHARS), withText(SMALL_CHARS * TIMES), withAddress(100_000)];
const baseline = fastestMs(() => JSON.stringify(textOf(SMALL_CHARS * TIMES)));
console.log(
  `A payload of ${(SMALL_CHARS * TIMES) / 1e6} MB, beside JSON.stringify of it (${baseline.toFixed(0)} ms); an address of 100 kB.`,
);
for (const { id, render } of TARGETS) {
  const [smallMs, largeMs, addressMs] = [small, large, address].map((draft) => fastestMs(() => render(draft)));
  if (smallMs === undefined || largeMs === undefined || addressMs === undefined) continue;
  console.log(
    `${id.padEnd(16)} ${(largeMs / baseline).toFixed(1).padStart(6)} x  ${largeMs.toFixed(0).padStart(5)} ms  ` +
      `${(largeMs / smallMs).toFixed(1)} x the time for ${TIMES} x the payload  address ${addressMs.toFixed(0)} ms`,
  );
}

/** Each repeated until the payload is as long as wanted; "many secrets" has them all different. */
const HOSTILE: Readonly<Record<string, (nth: number) => string>> = {
  'escaped quotes': () => '\\"',
  'unclosed lists': () => '"a":["b",',
  'unclosed elements': () => '<a ',
  'beginnings of tokens': () => 'eyJaaaaaa-',
  'dotted schemes': () => 'a.',
  'arguments that end in nothing': () => 'a: \\"b\\x',
  'many secrets': (nth) => `{"token":"abcdefgh${nth}","note":"abcdefg${nth}"},`,
};
const written = (piece: (nth: number) => string, chars: number): Draft => {
  const pieces: string[] = [];
  for (let length = 0, nth = 0; length < chars; nth++) {
    const text = piece(nth);
    length += text.length;
    pieces.push(text);
  }
  return { ...EMPTY_DRAFT, method: 'POST', payload: { type: 'text', text: pieces.join('') } };
};
console.log(`\nSecrets masked in a payload of ${(SMALL_CHARS * TIMES) / 1e6} MB, beside the same JSON.stringify.`);
for (const [what, piece] of Object.entries(HOSTILE)) {
  const [shorter, longer] = [written(piece, SMALL_CHARS), written(piece, SMALL_CHARS * TIMES)];
  const [shortMs, longMs] = [fastestMs(() => maskSecrets(shorter)), fastestMs(() => maskSecrets(longer))];
  console.log(
    `${what.padEnd(30)} ${(longMs / baseline).toFixed(1).padStart(6)} x  ${(longMs / shortMs).toFixed(1)} x the time for ${TIMES} x the payload`,
  );
}
