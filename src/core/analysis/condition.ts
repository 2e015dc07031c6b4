import type { Completeness, Page } from '../model';
import { formatCount, formatPlural } from '../wording';
import type { ExchangeFacts } from './row';

export type ConditionId =
  | 'cut-off'
  | 'damaged'
  | 'empty'
  | 'no-timings'
  | 'no-bodies'
  | 'some-bodies'
  | 'no-page'
  | 'several-pages'
  | 'extension-traffic';

/** One plain sentence on the capture's own condition, and what to do about it. */
export interface Condition {
  readonly id: ConditionId;
  readonly sentence: string;
  readonly advice: string;
}

/** Below this share of answered exchanges with a body, bodies count as recorded only for some. */
const MOST_BODIES_SHARE = 0.9;

/** The condition report of a capture, gravest first; empty for a capture that can answer every question. */
export function reportCondition(
  facts: readonly ExchangeFacts[],
  pages: readonly Page[],
  completeness: Completeness,
): Condition[] {
  const report: Condition[] = [...reportCompleteness(completeness, facts.length)];
  if (facts.length === 0) {
    report.push({
      id: 'empty',
      sentence: 'It holds no exchanges: its log was empty when it was saved.',
      advice: 'Start recording first, load the page, and save before anything clears the log.',
    });
    return report;
  }
  if (!facts.some((fact) => fact.hasTimings)) {
    report.push({
      id: 'no-timings',
      sentence: 'No exchange has its phases: nothing can be said about what took the time.',
      advice: 'Record again with a recorder that writes timings.',
    });
  }
  report.push(...reportBodies(facts), ...reportPages(pages));
  const foreign = facts.filter((fact) => !/^(https?|wss?|data|blob):/i.test(fact.url)).length;
  if (foreign > 0) {
    report.push({
      id: 'extension-traffic',
      sentence: `${formatPlural(foreign, 'exchange')} came from browser extensions, not from the page.`,
      advice: 'Record in a browser profile without extensions to have only the page.',
    });
  }
  return report;
}

function* reportCompleteness(completeness: Completeness, kept: number): Generator<Condition> {
  switch (completeness.type) {
    case 'whole':
      return;
    case 'cut':
      yield {
        id: 'cut-off',
        sentence: `The file is cut off at byte ${formatCount(completeness.atByte)}; the ${formatPlural(kept, 'exchange')} before that were kept.`,
        advice: 'Save it again, or ask whoever sent it to send it once more, compressed.',
      };
      break;
    case 'damaged':
      break;
    default:
      completeness satisfies never;
  }
  if (completeness.damagedEntries === 0) return;
  yield {
    id: 'damaged',
    sentence: `The file is damaged in ${formatPlural(completeness.damagedEntries, 'place')}; what stood there was left out.`,
    advice: 'Save the capture again if the missing ones matter.',
  };
}

function* reportBodies(facts: readonly ExchangeFacts[]): Generator<Condition> {
  const expected = facts.filter((fact) => fact.status !== undefined && (fact.bodyBytes ?? 0) > 0);
  const recorded = expected.filter((fact) => fact.hasBody).length;
  if (expected.length === 0 || recorded / expected.length >= MOST_BODIES_SHARE) return;
  if (recorded === 0) {
    yield {
      id: 'no-bodies',
      sentence: 'No response body was recorded: what the answers said cannot be shown.',
      advice: 'Save with content where the recorder offers it.',
    };
    return;
  }
  yield {
    id: 'some-bodies',
    sentence: `Bodies were recorded for only ${formatCount(recorded)} of ${formatCount(expected.length)} responses that had one.`,
    advice: 'Save with content, before the browser drops the older ones.',
  };
}

function* reportPages(pages: readonly Page[]): Generator<Condition> {
  if (pages.length === 0) {
    yield {
      id: 'no-page',
      sentence: 'It names no page: neither DOM ready nor loaded is known.',
      advice: 'Record a whole page load, from before its navigation, to have them.',
    };
  }
  if (pages.length > 1) {
    yield {
      id: 'several-pages',
      sentence: `It holds ${formatCount(pages.length)} pages.`,
      advice: 'Choose the page at the top; each has its own clock.',
    };
  }
}
