/** More requests than anybody means by one address. */
const MOST_REQUESTS = 200;

/** The addresses that curl makes of one with ranges and lists in it (curl manual, URL globbing), and what was left of them. */
export interface Expanded {
  readonly addresses: readonly string[];
  readonly notes: readonly string[];
}

/** Expands `{a,b}`, `[1-3]`, `[a-c]` and `[0-10:5]`; a backslash before a bracket takes its meaning away. */
export function expandGlobs(address: string): Expanded {
  if (!/[{[\\]/.test(address)) return { addresses: [address], notes: [] };
  let addresses = [''];
  let isCut = false;
  for (const [piece] of address.matchAll(/\\[{}[\]]|\{[^{}]*\}|\[[^[\]]*\]|[^\\{[]+|[\s\S]/g)) {
    const choices = choicesOf(piece);
    if (addresses.length * choices.length > MOST_REQUESTS) isCut = true;
    addresses = addresses.flatMap((one) => choices.map((choice) => one + choice)).slice(0, MOST_REQUESTS);
  }
  const lone = /(?<!\\)\{[^{},]+\}/.exec(address)?.[0];
  const notes =
    lone === undefined
      ? []
      : [`curl takes ${lone.slice(0, 40)} for a list of one: it sends ${lone.slice(1, -1).slice(0, 40)}.`];
  if (addresses.length < 2) return { addresses, notes };
  const told = isCut ? `the first ${MOST_REQUESTS} of its` : `its ${addresses.length}`;
  return {
    addresses,
    notes: [...notes, `curl makes several requests of ${address.slice(0, 80)}: here are ${told} addresses.`],
  };
}

function choicesOf(piece: string): readonly string[] {
  if (/^\\[{}[\]]$/.test(piece)) return [piece.slice(1)];
  if (piece.startsWith('{') && piece.length > 2) return piece.slice(1, -1).split(',');
  const numbers = /^\[(\d+)-(\d+)(?::(\d+))?\]$/.exec(piece);
  const letters = /^\[([A-Za-z])-([A-Za-z])(?::(\d+))?\]$/.exec(piece);
  const [, first = '', last = '', by = '1'] = numbers ?? letters ?? [];
  const step = Math.max(1, Number(by));
  if (numbers !== null)
    return range(Number(first), Number(last), step).map((number) =>
      // Zeros in front are kept: [001-100].
      String(number).padStart(first.startsWith('0') ? first.length : 0, '0'),
    );
  if (letters !== null)
    return range(first.charCodeAt(0), last.charCodeAt(0), step).map((code) => String.fromCharCode(code));
  return [piece];
}

function range(from: number, to: number, step: number): number[] {
  const all: number[] = [];
  for (let at = from; at <= to && all.length < MOST_REQUESTS; at += step) all.push(at);
  return all;
}
