import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

interface Extent {
  /** Only what lies within it is looked at. */
  readonly within?: string;
  /** By night only colours differ from the day: what else could bar somebody was looked at then. */
  readonly isNight?: boolean;
}

/** Expects that nothing that a machine can find bars anyone from using the page as it stands. */
export async function expectNothingBars(page: Page, { within, isNight = false }: Extent = {}): Promise<void> {
  // In the page itself, and only for what is wrong: a page of its own for each answer, and a list of all that is right,
  // took three times as long. What stands in frames is recorded, and none of ours.
  const axe = new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ['violations'] });
  if (within !== undefined) axe.include(within);
  if (isNight) axe.withRules(['color-contrast']);
  const { violations } = await axe.analyze();
  expect(
    violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(' | ')}`),
  ).toEqual([]);
}
