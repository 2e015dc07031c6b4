import { isFormType } from './encoded-places';
import { splitUrlValue, type Value } from './value';

/** How a value has to be given that code sends just as it comes, by where it stands. */
const WRITINGS = {
  percent: 'percent-encoded',
  json: 'as JSON writes it between quotes (\\" for ")',
  xml: 'as XML writes it (&amp; for &)',
} as const;
type Writing = keyof typeof WRITINGS;

/**
 * Warns of secrets that code reads when it runs and puts where not every character stands for itself: its address and its
 * payload are texts, which take what comes as it is. Names of secrets in another writing say so by themselves.
 */
export function warnOfWritings(address: Value, payload: Value, contentType: string): string[] {
  const told = new Set<string>();
  const tell = (place: string, value: Value, writing: Writing | undefined): string[] => {
    const names = value.flatMap((piece) => {
      if (!('variable' in piece)) return [];
      const { name, isSecret } = piece.variable;
      return isSecret && !isNamedEncoded(name) && !told.has(name) ? [name] : [];
    });
    if (writing === undefined || names.length === 0) return [];
    for (const name of names) told.add(name);
    const own = [...new Set(names)];
    const [goes, they, them] = own.length === 1 ? ['goes', 'it is', 'it'] : ['go', 'they are', 'them'];
    const listed = own.join(', ').replace(/, (\w+)$/, ' and $1');
    return [`${listed} ${goes} into the ${place} as ${they}: give ${them} ${WRITINGS[writing]}.`];
  };
  const { path, query = [] } = splitUrlValue(address);
  return [...tell('URL', [...path, ...query], 'percent'), ...tell('payload', payload, writingOf(payload, contentType))];
}

const isNamedEncoded = (name: string): boolean => /_encoded(?:_\d+)?$/.test(name);

function writingOf(value: Value, contentType: string): Writing | undefined {
  if (isFormType(contentType)) return 'percent';
  const [first] = value;
  if (first === undefined || !('text' in first)) return undefined;
  if (/^\s*[[{]/.test(first.text)) return 'json';
  return /^\s*</.test(first.text) ? 'xml' : undefined;
}
