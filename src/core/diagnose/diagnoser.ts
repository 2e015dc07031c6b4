import { analyse, type CaptureOverview, type ExchangeFacts, type ExchangeRow, FactsPool, takeFacts } from '../analysis';
import { type BriefPage, tellCard } from '../brief';
import { bodyShape, type Inflate, languageOf, readBody } from '../content';
import { type KnownBodies, LinkFinder } from '../links';
import { type Completeness, type Exchange, type ExchangeIndex, findResponse, type Page, type PageId } from '../model';
import { type Evidence, type EvidenceTools, takeEvidence } from './evidence';
import { diagnoseAll, type FoundInCapture, subjectOf } from './run';
import { ScriptWords } from './script-words';
import { Stock } from './stock';

/** What core cannot do itself: hashing, compressing and decompressing. */
export interface DiagnosisTools extends EvidenceTools {
  readonly inflate: Inflate;
  readonly hash: (bytes: Uint8Array) => string;
  /** What bodies name that were read before, where captures are alike. */
  readonly knownBodies?: KnownBodies;
}

export interface Diagnosis {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly evidence: ReadonlyMap<ExchangeIndex, Evidence>;
  readonly found: FoundInCapture;
  /** The route of each page to its load, by its id; of a capture without pages the only one, by undefined. */
  readonly briefs: ReadonlyMap<PageId | undefined, BriefPage | undefined>;
}

/** What has to be known of all exchanges before the first body is read: a body may name any of them. */
export type KnownExchange = Pick<
  ExchangeRow,
  'index' | 'pageId' | 'url' | 'kind' | 'startedAt' | 'status' | 'timeMs' | 'phases'
>;

/** The reading of bodies: who names whom, and what rules need. One exchange at a time; what it keeps of each is small. */
export class Diagnoser {
  #facts: ExchangeFacts[] = [];
  readonly #pool = new FactsPool();
  readonly #stock = new Stock();
  readonly #evidence = new Map<ExchangeIndex, Evidence>();
  readonly #words = new ScriptWords();
  /** The bodies whose words are known. */
  readonly #read = new Set<string>();
  /** Until the end: with many exchanges it takes as much room as all that is known of them. */
  #finder: LinkFinder | undefined;
  readonly #tools: DiagnosisTools;

  /** @param known the exchanges as they are known without their bodies */
  constructor(known: readonly KnownExchange[], tools: DiagnosisTools) {
    this.#tools = tools;
    this.#finder = new LinkFinder(
      known.map(({ index, pageId, url, kind, startedAt, status, timeMs, phases }) => ({
        index,
        page: pageId,
        url,
        kind,
        startMs: startedAt,
        answeredMs:
          startedAt === undefined || status === undefined
            ? undefined
            : startedAt + (timeMs ?? 0) - (phases.receiveMs ?? 0),
      })),
      tools.knownBodies,
    );
  }

  /** @param facts what was taken of the exchange before, if anything was */
  add(exchange: Exchange, facts: ExchangeFacts = takeFacts(exchange)): void {
    const finder = this.#unended();
    const response = findResponse(exchange);
    const { kind, decoded, text } = readBody(response, this.#tools.inflate);
    const language = languageOf(response?.mimeType);
    const hasBytes = decoded !== undefined && decoded.bytes.length > 0;
    const hash = hasBytes ? this.#tools.hash(decoded.bytes) : undefined;
    const key = hash === undefined ? undefined : `${hash} ${response?.mimeType}`;
    finder.look({
      index: exchange.index,
      shape: hasBytes ? bodyShape(response?.mimeType, decoded.bytes, kind) : undefined,
      language,
      text,
      key,
      linkHeaders: (response?.headers ?? []).flatMap(({ name, value }) => (/^link$/i.test(name) ? value : [])),
    });
    const isRead = key !== undefined && this.#read.has(key);
    if (text !== undefined && !isRead && (language === 'html' || language === 'javascript')) {
      this.#words.add(text);
      if (key !== undefined) this.#read.add(key);
    }
    this.#facts.push(this.#pool.share(facts));
    this.#evidence.set(
      exchange.index,
      takeEvidence(
        exchange,
        decoded === undefined
          ? undefined
          : {
              bytes: decoded.bytes,
              hash,
              text,
              isJson: kind === 'json',
              demand: finder.demandOf(exchange.index),
            },
        this.#tools,
        this.#stock,
      ),
    );
  }

  /** The analysis with what the bodies told, and the findings. Once: what was gathered is let go of as soon as it is used. */
  end(pages: readonly Page[], completeness: Completeness): Diagnosis {
    const references = this.#unended().references();
    this.#finder = undefined;
    const { rows, overview } = analyse(this.#facts, pages, completeness, references);
    this.#facts = [];
    const known = rows.map((row): ExchangeRow => {
      const errorInside = this.#evidence.get(row.index)?.errorInside;
      return errorInside === undefined ? row : { ...row, errorInside };
    });
    const subject = subjectOf(known, overview, this.#evidence, this.#words);
    const found = diagnoseAll(subject);
    const [first] = subject.pages;
    const about = rulesAbout(found);
    return {
      rows: known.map((row) => (about.has(row.index) ? { ...row, findings: about.get(row.index) } : row)),
      overview: { ...overview, sentence: tellCard(overview, first?.rows ?? known, first?.brief) },
      evidence: this.#evidence,
      found,
      briefs: new Map(subject.pages.map((page) => [page.overview?.id, page.brief])),
    };
  }

  #unended(): LinkFinder {
    if (this.#finder === undefined) throw new Error('This diagnosis has ended: it takes no more exchanges.');
    return this.#finder;
  }
}

/** The rules that found something about each exchange, one on each line. */
function rulesAbout({ findings }: FoundInCapture): ReadonlyMap<ExchangeIndex, string> {
  const rules = new Map<ExchangeIndex, Set<string>>();
  for (const { rule, evidence } of findings) {
    for (const index of evidence) rules.set(index, (rules.get(index) ?? new Set()).add(rule));
  }
  return new Map([...rules].map(([index, own]) => [index, [...own].join('\n')]));
}
