import type { Clocks, ExchangeRow, PageOverview } from '../analysis';
import type { BriefPage, Change, Confidence, Load } from '../brief';
import type { ExchangeIndex } from '../model';
import type { HeldBack, Queue, Rate, RoundTrip } from '../timing';
import type { Evidence } from './evidence';

/** The rules there are, in the order in which they are shown where nothing else orders them. */
export const RULE_IDS = [
  'http-error',
  'no-answer',
  'cross-origin',
  'unreadable',
  'redirect-loop',
  'error-in-success',
  'cut-short',
  'wrong-type',
  'token-expired',
  'retried',
  'rate-limited',
  'mixed-content',
  'socket-dropped',
  'slow-server',
  'slow-download',
  'set-up-again',
  'held-in-queue',
  'found-late',
  'in-a-row',
  'gap',
  'ready-to-loaded',
  'redirect-cost',
  'third-party-on-route',
  'asked-twice',
  'too-many',
  'old-protocol',
  'slow-connection',
  'slow-set-up',
  'preflight-each-time',
  'sent-uncompressed',
  'heavy-script',
  'heavy-style',
  'heavy-image',
  'heavy-font',
  'cookie-weight',
  'unused-fields',
  'never-kept',
  'kept-too-short',
  'checked-in-vain',
  'no-validator',
  'fetched-again-unchanged',
  'shared-miss',
  'shared-risk',
  'vary-splits',
  'clock-skew',
] as const;
export type RuleId = (typeof RULE_IDS)[number];

/** broken: something does not work; costly: it holds the load up; wasteful: it costs bytes or time off the route. */
export type Severity = 'broken' | 'costly' | 'wasteful' | 'note';

/** What a matter costs, computed, not guessed; absent members are not known or do not apply. */
export interface Cost {
  /** How much sooner the load would be there with the matter remedied, at most, in ms: the recorded load less the played one. */
  readonly routeMs?: number;
  /** It is what this remedy gains beside those of findings on the same exchanges that gain more. */
  readonly isFurther?: true;
  readonly wireBytes?: number;
}

/** One diagnosed matter: what is claimed, what it rests on, what it costs, what to do about it. */
export interface Finding {
  readonly rule: RuleId;
  readonly severity: Severity;
  /** A sentence with the numbers in it. */
  readonly claim: string;
  /** Further facts, in a sentence or two. */
  readonly detail: string;
  readonly evidence: readonly ExchangeIndex[];
  readonly cost: Cost;
  readonly remedy: string;
  readonly confidence: Confidence;
}

/** What a rule finds: the runner plays the load with the remedy done, and has the cost from that. */
export interface Matter extends Omit<Finding, 'rule' | 'cost'> {
  /** The remedy, as far as it can be played; indexes of several pages are played on each. */
  readonly changes?: readonly Change[];
  readonly wireBytes?: number;
}

/** One page of a capture as rules see it. */
export interface SubjectPage {
  readonly overview: PageOverview | undefined;
  /** Its exchanges in the order of their starts. */
  readonly rows: readonly ExchangeRow[];
  readonly brief: BriefPage | undefined;
  readonly load: Load;
  /** How fast the connection to the network was, and when it was full; undefined where too little came to tell. */
  readonly rate: Rate | undefined;
}

/** An analysed capture as rules see it. */
export interface Subject {
  /** What is to be judged: the exchanges of the whole capture, or of one page. */
  readonly rows: readonly ExchangeRow[];
  /** The same but for what a service worker fetched to answer one of them: a request that is seen twice is judged once. */
  readonly asked: readonly ExchangeRow[];
  readonly pages: readonly SubjectPage[];
  /** For exchanges whose very bytes were fetched before, the first that fetched them. */
  readonly fetchedBefore: () => ReadonlyMap<ExchangeIndex, ExchangeRow>;
  /** The exchanges whose responses set cookies. */
  readonly cookieSetters: () => readonly ExchangeRow[];
  readonly evidenceOf: (index: ExchangeIndex) => Evidence | undefined;
  readonly rowOf: (index: ExchangeIndex | undefined) => ExchangeRow | undefined;
  /** Whether a recorded script or page holds a word; undefined where none was read. */
  readonly saysWord: (word: string) => boolean | undefined;
  /** The wait of an exchange for one of six connections, where it had one. */
  readonly queueOf: (index: ExchangeIndex) => Queue | undefined;
  /** The wait of an image that its browser held back behind what stopped the parser, where it had one. */
  readonly heldBackOf: (index: ExchangeIndex) => HeldBack | undefined;
  /** The clock of a host less the recording computer's, in ms; 0 where it is not known to be off. */
  readonly clockOf: (host: string) => number;
  readonly clocks: () => Clocks;
  /** The round trip of a host, where enough was recorded to tell. */
  readonly tripOf: (host: string) => RoundTrip | undefined;
  /** Time of an exchange that lies on its page's route, in ms; 0 off it. */
  readonly routeMsOf: (index: ExchangeIndex) => number;
}

/** A rule: a pure function from an analysed capture to what it finds. */
export type Rule = (subject: Subject) => Iterable<Matter>;

/** By what a finding is known from one diagnosis to the next: its rule, and what it rests on. */
export const keyOfFinding = ({ rule, evidence }: Pick<Finding, 'rule' | 'evidence'>): string =>
  `${rule} ${evidence.join(',')}`;
