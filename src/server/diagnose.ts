import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { analyse, type CaptureOverview, type ExchangeFacts, type ExchangeRow, takeFacts } from '#core/analysis';
import { tellCard } from '#core/brief';
import { bodyShape, languageOf, readBody } from '#core/content';
import {
  diagnoseAll,
  type Evidence,
  type EvidenceTools,
  type FoundInCapture,
  subjectOf,
  takeEvidence,
  WordStock,
} from '#core/diagnose';
import { LinkFinder } from '#core/links';
import { type Completeness, type Exchange, type ExchangeIndex, findResponse, type Page } from '#core/model';
import { inflateWithZlib } from './inflate';

/** As servers compress on the fly. */
const GZIP_LEVEL = 6;

const TOOLS: EvidenceTools = {
  hash: (bytes) => createHash('sha256').update(bytes).digest('base64').slice(0, 22),
  compressedLength: (bytes) => gzipSync(bytes, { level: GZIP_LEVEL }).length,
};

export interface Diagnosis {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly evidence: ReadonlyMap<ExchangeIndex, Evidence>;
  readonly found: FoundInCapture;
}

/** The reading of bodies: who names whom, and what rules need. One exchange at a time; what it keeps of each is small. */
export class Diagnoser {
  readonly #facts: ExchangeFacts[] = [];
  readonly #evidence = new Map<ExchangeIndex, Evidence>();
  readonly #words = new WordStock();
  readonly #finder: LinkFinder;

  /** @param rows the exchanges as they are known without their bodies */
  constructor(rows: readonly ExchangeRow[]) {
    this.#finder = new LinkFinder(
      rows.map(({ index, pageId, url, kind, startedAt, status, timeMs, phases }) => ({
        index,
        page: pageId,
        url,
        kind,
        startMs: startedAt,
        answeredMs:
          startedAt === undefined || status === undefined
            ? undefined
            : startedAt + (timeMs ?? 0) - (phases.downloadMs ?? 0),
      })),
    );
  }

  add(exchange: Exchange): void {
    const response = findResponse(exchange);
    const { kind, decoded, text } = readBody(response, inflateWithZlib);
    const language = languageOf(response?.mimeType);
    const hasBytes = decoded !== undefined && decoded.bytes.length > 0;
    this.#finder.look({
      index: exchange.index,
      shape: hasBytes ? bodyShape(response?.mimeType, decoded.bytes, kind) : undefined,
      language,
      text,
      linkHeaders: (response?.headers ?? []).flatMap(({ name, value }) => (/^link$/i.test(name) ? value : [])),
    });
    if (text !== undefined && (language === 'html' || language === 'javascript')) this.#words.add(text);
    this.#facts.push(takeFacts(exchange));
    this.#evidence.set(
      exchange.index,
      takeEvidence(
        exchange,
        decoded === undefined ? undefined : { bytes: decoded.bytes, text, isJson: kind === 'json' },
        TOOLS,
      ),
    );
  }

  /** The analysis with what the bodies told, and the findings. */
  end(pages: readonly Page[], completeness: Completeness): Diagnosis {
    const { rows, overview } = analyse(this.#facts, pages, completeness, this.#finder.references());
    const found = diagnoseAll(subjectOf(rows, overview, this.#evidence, this.#words));
    return { rows, overview: { ...overview, sentence: tellCard(overview, rows) }, evidence: this.#evidence, found };
  }
}
