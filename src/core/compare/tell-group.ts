import { formatCount, formatMs, formatPlural } from '../wording';
import type { TimePart } from './graph';
import type { GroupComparison } from './group';
import { PART_WORDS } from './tell-pair';

// What slow loads share, in sentences.

/** What the slow loads of a group share, in sentences. */
export function tellGroup(group: GroupComparison): readonly [string, ...string[]] {
  const { summary, slow, isApart, differenceMs, shared, goal } = group;
  const all = formatPlural(summary.loadsMs.length, 'load');
  const told = isApart
    ? `${formatCount(slow.length)} of ${all} ${slow.length === 1 ? 'is' : 'are'} slow: ${formatMs(differenceMs)} more than the others in the median.`
    : `The ${all} are not two groups by how long they take; the slowest ${formatCount(slow.length)} ${slow.length === 1 ? 'takes' : 'take'} ${formatMs(differenceMs)} more than the others in the median.`;
  const measured =
    goal === 'loaded'
      ? []
      : [
          goal === 'domReady'
            ? 'Not all have a loaded milestone: they are measured to DOM ready.'
            : 'Not all have a milestone: they are measured to the end of the last exchange that a load waits for.',
        ];
  const [most] = shared;
  if (most === undefined)
    return [told, ...measured, 'No endpoint, host, phase, source or status alone explains a tenth of it.'];
  const spread =
    slow.length === 1 ? '' : `, and a tenth or more in ${formatCount(most.inLoads)} of the ${formatCount(slow.length)}`;
  return [
    told,
    ...measured,
    `${most.ms >= differenceMs / 2 ? 'Most of it' : 'The largest part of it'} comes with ${nameShared(most)}: it alone makes ${formatMs(most.ms)} of that${spread}.`,
  ];
}

/** A dimension with its value in words. */
export function nameShared({ dimension, value }: GroupComparison['shared'][number]): string {
  switch (dimension) {
    case 'endpoint':
      return `the endpoint ${value}`;
    case 'host':
      return `the host ${value}`;
    case 'phase':
      return `the phase "${PART_WORDS[value as TimePart]}"`;
    case 'source':
      return `the source ${value}`;
    case 'status':
      return `the status ${value}`;
    default:
      return dimension satisfies never;
  }
}
