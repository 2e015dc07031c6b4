import { atom } from 'nanostores';

/** How the chart is looked at, beside what the address holds: kept while its view is left for another. */
export const $chartOptions = atom<{ readonly showsLegend: boolean; readonly dimsOffRoute: boolean }>({
  showsLegend: false,
  dimsOffRoute: false,
});

export function turnOption(name: 'showsLegend' | 'dimsOffRoute'): void {
  const options = $chartOptions.get();
  $chartOptions.set({ ...options, [name]: !options[name] });
}
