import { splitUrl } from '../../http';
import { writePath } from '../../json';
import type { Carry, Sequence, SequenceStep } from '../carry';
import type { Variable } from '../draft';
import { fillIn, VARIABLE_MARK } from '../value';
import type { Statement } from './statement';

/**
 * Requests one after the other: what a response gave is taken from the response as it comes then.
 * @param goesOn a step that fails does not end the script
 */
export const describeSequence = ({ steps, carries }: Sequence, goesOn = false): Statement[] =>
  steps.map((step): Statement => {
    const given = carries.filter(({ from }) => from === step.index);
    return {
      do: 'step',
      title: titleOf(step),
      body: [
        {
          do: 'request',
          draft: step.draft,
          called: nameOf(step),
          retries: step.retries,
          stopsAtRedirect: step.isRedirected && (given.some(isOfHeaders) || leadsToOther(step, steps)),
          mayFail: goesOn || mayFail(step.ended),
          readsJson: given.some(({ source }) => source.type === 'json'),
          readsText: given.some(({ source }) => source.type === 'text'),
          readsHeaders: given.some(isOfHeaders),
        },
        ...given.map(
          (carry): Statement => ({
            do: 'take',
            into: variableOf(carry),
            source: carry.source,
            as: carry.as,
            lacking: lackingOf(carry),
          }),
        ),
        { do: 'report' },
      ],
    };
  });

const isOfHeaders = ({ source: { type } }: Carry): boolean => type !== 'json' && type !== 'text';

/** Whether where a redirect leads is another step, as each hop is in a capture. */
function leadsToOther({ draft, answer, index }: SequenceStep, steps: readonly SequenceStep[]): boolean {
  const target = hrefOf(answer.location ?? '', fillIn(draft).url);
  return steps.some((step) => step.index !== index && hrefOf(fillIn(step.draft).url) === target);
}

/** An address without its fragment, which is not sent; undefined where it is none. */
function hrefOf(address: string, base?: string): string | undefined {
  try {
    return new URL(address, base).href.replace(/#.*$/s, '');
  } catch {
    return undefined;
  }
}

/** A carried value as a variable: its value comes with the answer. */
export const variableOf = ({ name }: Carry): Variable => ({ name, value: '', isSecret: false });

function lackingOf({ source }: Carry): string {
  switch (source.type) {
    case 'json':
      return `There is no ${source.holds === 'number' ? 'whole number' : 'text'} at ${writePath(source.path)} in the response.`;
    case 'text':
      return `Nothing stands behind ${source.before.replace(/\s+/g, ' ')} in the response.`;
    case 'cookie':
      return `The response sets no cookie ${source.name}.`;
    case 'header':
      return `The response has no header ${source.name}.`;
    case 'location':
      return 'The response has no Location.';
    case 'parameter':
      return `The Location of the response has no parameter ${source.name}.`;
    default:
      return source satisfies never;
  }
}

/** What a step of a script is called in the comment above it. */
const titleOf = (step: SequenceStep): string =>
  `${nameOf(step)}${mayFail(step.ended) ? `, which returned ${step.ended} in the capture` : ''}`;

function nameOf({ draft: { method, url }, index }: SequenceStep): string {
  const { path, query } = splitUrl(url) ?? { path: url, query: '' };
  return `#${index} ${`${method} ${path}${query}`
    .replace(VARIABLE_MARK, '{$1}')
    .replace(/[^\x20-\x7e]/g, '?')
    .slice(0, 80)}`;
}

/** What failed in the capture may fail again: the script goes on behind it, as the page did. */
const mayFail = (ended: SequenceStep['ended']): boolean => typeof ended === 'number';
