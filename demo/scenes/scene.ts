import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Browser, type BrowserContext, type CDPSession, chromium, type Page } from '@playwright/test';
import { analyse, type ExchangeRow, takeFacts } from '#core/analysis';
import { type BriefPage, plotPage, tellBrief } from '#core/brief';
import { bytesFromText } from '#core/content';
import type { Diagnosis, Finding } from '#core/diagnose';
import { HarReader, isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { beginReading } from '#server/diagnose';
import { chromiumOptions } from '../../e2e/support/chromium';
import { enrich, type Har, retime } from '../record/enrich';
import { logProtocol, type ProtocolRequest } from '../record/protocol-log';
import { type LoggedRequest, type SiteOptions, startSite } from '../site';

/** A load that a real browser makes of a site of this machine, and what the site itself saw of it. */
export interface Scene {
  readonly site: SiteOptions;
  readonly context?: { readonly serviceWorkers?: 'allow' | 'block' };
  /** What is done; the last page that it opened is the one recorded. */
  readonly visit: (stage: Stage) => Promise<void>;
}

export interface Stage {
  readonly page: Page;
  readonly context: BrowserContext;
  readonly session: CDPSession;
  /** Which requests reached the site so far. */
  readonly log: readonly LoggedRequest[];
}

export interface Recorded {
  readonly har: Har;
  readonly log: readonly LoggedRequest[];
  readonly rows: readonly ExchangeRow[];
  readonly findings: readonly Finding[];
  readonly overview: Diagnosis['overview'];
  /** The briefs of its pages, in their order. */
  readonly briefs: readonly { readonly page: BriefPage; readonly sentence: string; readonly lastLeg: string }[];
  readonly rowOf: (path: string) => ExchangeRow;
  readonly findingsAbout: (path: string) => readonly Finding[];
}

/** Plays a scene with a browser and a site of its own, and reads what was recorded as the app would. */
export async function record({ site: options, visit, context: contextOptions = {} }: Scene): Promise<Recorded> {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-scene-'));
  const site = await startSite(folder, options);
  let browser: Browser | undefined;
  try {
    browser = await chromium.launch({
      ...chromiumOptions,
      args: [...(chromiumOptions.args ?? []), ...site.chromiumArgs],
    });
    const path = join(folder, 'scene.har');
    const context = await browser.newContext({ ...contextOptions, recordHar: { path, content: 'embed' } });
    const page = await context.newPage();
    const session = await context.newCDPSession(page);
    const protocol: ProtocolRequest[] = await logProtocol(session);
    await visit({ page, context, session, log: site.requests });
    await context.close();
    const har = JSON.parse(readFileSync(path, 'utf8')) as Har;
    retime(har, protocol);
    enrich(har, protocol);
    return read(har, [...site.requests]);
  } finally {
    await browser?.close();
    await site.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

function read(har: Har, log: readonly LoggedRequest[]): Recorded {
  const exchanges: Exchange[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => {
      if (isObject(value)) exchanges.push(normaliseEntry(value, place));
    },
  });
  reader.push(bytesFromText(JSON.stringify(har)));
  const { capture } = reader.end();
  const { rows: known } = analyse(exchanges.map(takeFacts), capture.pages, capture.completeness);
  const diagnoser = beginReading(known);
  for (const exchange of exchanges) diagnoser.add(exchange);
  const { rows, overview, found } = diagnoser.end(capture.pages, capture.completeness);
  const briefs = overview.pages.flatMap((page) => {
    const own = rows.filter(({ pageId }) => pageId === page.id);
    const plotted = plotPage(own, page);
    if (plotted === undefined) return [];
    const last = plotted.legs.findLast((leg) => leg.type === 'exchange');
    const lastLeg = last?.type === 'exchange' ? (rows[last.index]?.url ?? '') : '';
    return [{ page: plotted, sentence: tellBrief(plotted, new Map(own.map((row) => [row.index, row]))), lastLeg }];
  });
  const rowOf = (end: string): ExchangeRow => {
    const row = rows.findLast(({ url }) => url.endsWith(end));
    if (row === undefined)
      throw new Error(`nothing was recorded of ${end}; of ${rows.map(({ url }) => url).join(' ')}`);
    return row;
  };
  return {
    har,
    log,
    rows,
    findings: found.findings,
    overview,
    briefs,
    rowOf,
    findingsAbout: (end) => {
      const { index } = rowOf(end);
      return found.findings.filter(({ evidence }) => evidence.includes(index));
    },
  };
}
