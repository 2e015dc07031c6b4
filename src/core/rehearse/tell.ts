import { formatPlural } from '../wording';
import { shownOrigin } from './addresses';
import { type Excuse, type RequestDifference, verdictOf } from './differences';
import type { Misfit, Nearest } from './nearest';

const EXCUSE_WORDS: Readonly<Record<Excuse, string>> = {
  changing: 'tokens, cookies or values that are new each time',
  connection: 'headers of the connection',
  coding: 'what the client can decompress',
  cache: "what the client's cache knows",
  order: 'the order of headers',
};

/** How a request compares with the captured one, in a sentence. */
export function tellVerdict(differences: readonly RequestDifference[]): string {
  const counted = differences.filter(({ excuse }) => excuse === undefined);
  switch (verdictOf(differences)) {
    case 'captured':
      return 'As captured.';
    case 'excused': {
      const excuses = [...new Set(differences.flatMap(({ excuse }) => excuse ?? []))];
      return `As captured, but for ${listOf(excuses.map((excuse) => EXCUSE_WORDS[excuse]))}.`;
    }
    case 'differs':
      return `Differs from the captured request in ${formatPlural(counted.length, 'place')}: ${named(counted.map(nameDifference))}.`;
    default:
      return '';
  }
}
const MOST_NAMED = 4;

/** A difference in a few words: "header accept-language", "header x-hut added", "parameter page missing". */
export function nameDifference({ part, name, captured, asked }: RequestDifference): string {
  const what = part === name ? part : part === 'order' ? name : `${PART_WORDS[part]} ${name}`;
  if (captured === undefined) return `${what} added`;
  return asked === undefined ? `${what} missing` : what;
}

const PART_WORDS: Readonly<Record<RequestDifference['part'], string>> = {
  method: 'method',
  host: 'host',
  path: 'path',
  query: 'parameter',
  payload: 'payload',
  header: 'header',
  order: '',
};

/** Why a difference does not count; undefined for one that does. */
export const tellExcuse = ({ excuse }: RequestDifference): string | undefined =>
  excuse === undefined ? undefined : EXCUSE_WORDS[excuse];

/** Why nothing was given, with what came nearest. */
export function tellMiss(nearest: Nearest | undefined): string {
  if (nearest === undefined) return 'Nothing like it was captured.';
  const why = nearest.misfits.slice(0, MOST_NAMED).map(nameMisfit);
  const more =
    nearest.misfits.length > MOST_NAMED ? ` and ${nearest.misfits.length - MOST_NAMED} more differences` : '';
  return `No captured request fits. Nearest is #${nearest.index}, ${nearest.method} ${short(nearest.url, URL_CHARS)}: ${listOf(why)}${more}.`;
}
const URL_CHARS = 120;

function nameMisfit(misfit: Misfit): string {
  switch (misfit.of) {
    case 'method':
      return `its method is ${misfit.captured}`;
    case 'host':
      return `it went to ${shownOrigin(misfit.captured)}`;
    case 'path':
      return `its path is ${short(misfit.captured, VALUE_CHARS)}`;
    case 'query':
    case 'payload': {
      const where = misfit.of === 'query' ? `parameter "${misfit.name}"` : `payload field ${misfit.name}`;
      if (misfit.asked === undefined) return `its ${where} is missing here`;
      if (misfit.captured === undefined) return `it has no ${where}`;
      return `its ${where} is ${sayValue(misfit.captured)}, not ${sayValue(misfit.asked)}`;
    }
    default:
      return misfit satisfies never;
  }
}
const VALUE_CHARS = 60;

const sayValue = (text: string): string => (text === '' ? 'empty' : short(text, VALUE_CHARS));

const short = (text: string, most: number): string => (text.length > most ? `${text.slice(0, most)}…` : text);

/** The first few of a list, and how many more there are. */
const named = (words: readonly string[]): string =>
  words.length <= MOST_NAMED
    ? listOf(words)
    : listOf([...words.slice(0, MOST_NAMED), `${words.length - MOST_NAMED} more`]);

function listOf(words: readonly string[]): string {
  if (words.length < 2) return words.join('');
  return `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
}
