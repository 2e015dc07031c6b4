import { isRedirectStatus } from '../http';
import type { ExchangeRow } from './exchange-row';

/** Success, redirect, failed, or cached (the network was not needed, or only asked): the hue of a strip. */
export const OUTCOME_CLASSES = ['plain', 'cached', 'redirect', 'failed'] as const;
export type OutcomeClass = (typeof OUTCOME_CLASSES)[number];

/** The class of an outcome by which strips are coloured. Failed wins over redirect, redirect over cached. */
export function classifyOutcome(row: Pick<ExchangeRow, 'failure' | 'status' | 'source'>): OutcomeClass {
  if (row.failure !== undefined) return 'failed';
  const { status, source } = row;
  if (isRedirectStatus(status)) return 'redirect';
  switch (source) {
    case 'network':
    case 'none':
    case 'unknown':
    case 'pushed':
      return 'plain';
    case 'revalidated':
    case 'cache':
    case 'memory':
    case 'disk':
    case 'worker':
    case 'prefetched':
      return 'cached';
    default:
      return source satisfies never;
  }
}
