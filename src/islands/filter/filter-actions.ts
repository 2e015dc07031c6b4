import type { ExchangeRow } from '#core/analysis';
import type { Action } from '../state/actions';
import { goTo, type Noise } from '../state/address';
import { laterScript } from '../ui/later';

// What writes a term is loaded when one is first asked for.
const loadTerms = laterScript(() => import('./FilterValue'));

/** Adds what a text says, which is known to be a filter, or takes it away where it is there. */
export async function filterByText(text: string): Promise<void> {
  const { filterBy, termFrom } = await loadTerms();
  filterBy(termFrom(text));
}

async function filterByField(name: 'host' | 'endpoint', value: string | undefined): Promise<void> {
  const { filterBy, termOf } = await loadTerms();
  filterBy(termOf({ name }, value));
}

const NOISE_KEYS: readonly (readonly [Noise, string, string])[] = [
  ['extension', 'e', 'traffic of browser extensions'],
  ['report', 'o', 'reports'],
  ['third', 't', 'third parties'],
];

/** What narrows every view: noises hidden and shown, and the current exchange's host and endpoint. */
export function filterActions(row: ExchangeRow | undefined, hidden: readonly Noise[]): readonly Action[] {
  return [
    ...NOISE_KEYS.map(
      ([noise, key, words]): Action => ({
        id: `hide-${noise}`,
        label: `${hidden.includes(noise) ? 'Show' : 'Hide'} ${words}`,
        keys: [key],
        run: () =>
          goTo({ hidden: hidden.includes(noise) ? hidden.filter((one) => one !== noise) : [...hidden, noise] }),
      }),
    ),
    ...(row === undefined
      ? []
      : [
          {
            id: 'same-host',
            label: `Filter by the host ${row.host}`,
            keys: [],
            run: () => filterByField('host', row.host),
          },
          {
            id: 'same-endpoint',
            label: 'Filter by the endpoint of the current exchange',
            keys: ['s'],
            run: () => filterByField('endpoint', row.endpoint),
          },
        ]),
  ];
}
