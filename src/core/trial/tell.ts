import { formatPlural } from '../wording';
import type { Sameness } from './same';

/**
 * The verdict as a sentence.
 * @param as what it is held against: "as captured", "as in trial 3"
 */
export function tellSameness(
  { verdict, differences, lacksBody }: Sameness,
  status: number,
  as = 'as captured',
): string {
  const counted = differences.filter(({ changes }) => changes === undefined);
  const others = differences.length - counted.length;
  const statusChange = counted.find(({ of }) => of === 'status');
  const head = statusChange === undefined ? `${status}, ${as}.` : `${status}, not ${statusChange.was} ${as}.`;
  const body = lacksBody ? ' The bodies cannot be compared: one of them is not there.' : '';
  const what = lacksBody ? 'Status and headers are the same' : 'The same response';
  const but = others === 0 ? '' : ` but for ${formatPlural(others, 'value')} that ${changing(differences, others)}`;
  if (verdict !== 'differs') return `${head} ${what}${but}.${body}`;
  const rest = counted.length - (statusChange === undefined ? 0 : 1);
  return rest === 0 ? `${head}${body}` : `${head} It differs in ${formatPlural(rest, 'place')}.${body}`;
}

/** Whether it is known that they change by themselves. */
function changing(differences: Sameness['differences'], count: number): string {
  const isKnown = differences.every(({ changes }) => changes !== 'guessed');
  const verb = count === 1 ? 'changes' : 'change';
  return isKnown
    ? `${verb} by ${count === 1 ? 'itself' : 'themselves'}`
    : `may ${verb.replace(/s$/, '')} by ${count === 1 ? 'itself' : 'themselves'}`;
}
