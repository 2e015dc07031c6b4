import type { Draft } from '../convert';
import { type KeptDraft, type Sheet, withSheet } from '../sheet';
import { type HeldResponse, holdAgainst, volatilePlaces } from '../trial';
import { type Part, partsOf, withoutParts } from './parts';
import { CONTROLS, type Found, type Question, type Reply, TrimSearch } from './search';
import { tellFound, tellLeftOut, tellWithout } from './tell';

/** A request that a trim sends. */
export interface TrimStep {
  /** From 1. */
  readonly number: number;
  readonly stage: 'control' | Question<Part>['stage'];
  readonly leftOut: readonly Part[];
  /** What it leaves out, in words. */
  readonly label: string;
  readonly sheet: Sheet;
  readonly draft: Draft;
}

/** What came of a step: a response, or none in spite of waiting and asking again; one that puts off answers nothing. */
export type TrimHeard =
  | { readonly type: 'response'; readonly response: HeldResponse }
  | { readonly type: 'none'; readonly sentence: string }
  | { readonly type: 'busy'; readonly status: number };

export interface TrimOrder {
  readonly kept: KeptDraft;
  /** What the capture has; absent where there is none to hold against. */
  readonly captured: HeldResponse | undefined;
  /** What the response has to stay like: the captured one, or what the draft gets now. */
  readonly measure: 'captured' | 'now';
  /** The User-Agent of the client that the trimmed request is for, where it sends one of its own. */
  readonly clientAgent: string | undefined;
  readonly mostSends: number;
  /** Sends a step; throws what stops the trim for good. */
  readonly ask: (step: TrimStep) => Promise<TrimHeard>;
  /** Hears what a step came to, and what is known by then. */
  readonly onReply: (step: TrimStep, sentence: string, isSame: boolean, found: Found<Part>) => void;
  readonly isStopped: () => boolean;
}

export type TrimOutcome =
  /** The draft unchanged got two responses that are not alike. */
  | { readonly type: 'unsteady'; readonly sentence: string }
  /** It does not get what was captured: which is the measure? */
  | { readonly type: 'other'; readonly sentence: string }
  /** The draft has nothing that could be left out, or got no response. */
  | { readonly type: 'nothing'; readonly sentence: string }
  | { readonly type: 'found'; readonly sentence: string; readonly found: Found<Part> };

/** What it is about a request that a browser alone adds, or that only asks for less. */
const AT_ONCE = new Set<Part['role']>(['browser-colour', 'conditional', 'encoding']);
/** Of two that are enough, the one that is more the request itself is kept. */
const LIKELIHOOD: readonly Part['role'][] = [
  'own',
  'credential',
  'encoding',
  'conditional',
  'browser-colour',
  'computed',
];

/** Finds by trials which parts of a draft are needed for the response that it gets: control, search, proof. */
export async function trimDraft(order: TrimOrder): Promise<TrimOutcome> {
  const { kept } = order;
  const parts = partsOf(kept);
  if (parts.length === 0) return { type: 'nothing', sentence: 'Nothing of this request can be left out.' };
  const run = new TrimRun(order, parts);
  const control = await run.control();
  if ('type' in control) return control;
  const sorted = [...parts].sort((one, other) => LIKELIHOOD.indexOf(one.role) - LIKELIHOOD.indexOf(other.role));
  const search = new TrimSearch<Part>({
    parts: sorted,
    atOnce: ({ role }) => AT_ONCE.has(role),
    inside: ({ inside }) => inside,
    mostQuestions: order.mostSends - CONTROLS,
  });
  const steps = search.run();
  let next = steps.next();
  while (next.done !== true) {
    if (order.isStopped()) return { type: 'found', found: search.found, sentence: tellFound(search.found, 'stopped') };
    if (run.sent >= order.mostSends) {
      const sentence = tellFound(search.found, 'most', order.mostSends);
      return { type: 'found', found: search.found, sentence };
    }
    const { stage, leftOut } = next.value;
    const step = run.step(stage, leftOut);
    const heard = await order.ask(step);
    // A send that was broken off answers nothing.
    if (order.isStopped()) continue;
    if (heard.type === 'busy') {
      const sentence = `The server puts off what it is asked (${heard.status}). ${tellFound(search.found, 'stopped')}`;
      return { type: 'found', found: search.found, sentence };
    }
    const reply = replyOf(control, heard);
    next = steps.next(reply);
    order.onReply(step, reply.isSame ? 'the same response' : reply.reason, reply.isSame, search.found);
  }
  const { found } = search;
  if (run.sent >= order.mostSends) return { type: 'found', found, sentence: tellFound(found, 'whole') };
  return run.confirm(control, found);
}

interface Control {
  readonly measure: HeldResponse;
  readonly changing: ReadonlySet<string>;
}

class TrimRun {
  sent = 0;
  readonly #order: TrimOrder;
  readonly #all: readonly Part[];

  constructor(order: TrimOrder, all: readonly Part[]) {
    this.#order = order;
    this.#all = all;
  }

  step(stage: TrimStep['stage'], leftOut: readonly Part[], label = tellLeftOut(leftOut, this.#all)): TrimStep {
    const { kept, clientAgent } = this.#order;
    const sheet = withoutParts(kept.sheet, leftOut);
    const { draft } = withSheet(kept, sheet);
    this.sent++;
    return {
      number: this.sent,
      stage,
      leftOut,
      label: stage === 'control' ? 'unchanged' : label,
      sheet,
      draft: leftOut.length === 0 ? draft : withAgent(draft, clientAgent),
    };
  }

  /**
   * The result once more. A server that by now refuses whoever asks so often has made parts look needed that are not: then
   * nothing of it is sure.
   */
  async confirm(control: Control, found: Found<Part>): Promise<TrimOutcome> {
    const step = this.step('proof', found.leftOut, 'the result once more');
    const heard = await this.#order.ask(step);
    if (this.#order.isStopped()) return { type: 'found', found, sentence: tellFound(found, 'stopped') };
    const reply =
      heard.type === 'busy' ? { isSame: false as const, reason: String(heard.status) } : replyOf(control, heard);
    const sure = reply.isSame ? found : { ...found, isProven: false };
    this.#order.onReply(step, reply.isSame ? 'the same response' : reply.reason, reply.isSame, sure);
    const sentence = reply.isSame
      ? tellFound(found, 'whole')
      : `Not sure: the result once more got another response (${reply.reason}). The server may limit how often it is asked; try again later.`;
    return { type: 'found', found: sure, sentence };
  }

  /** The draft unchanged, twice: what the others are held against, or why nothing can be. */
  async control(): Promise<Control | Exclude<TrimOutcome, { type: 'found' }>> {
    const { ask, onReply, captured, measure, isStopped } = this.#order;
    const responses: HeldResponse[] = [];
    const nothing: Found<Part> = { needed: [], leftOut: [], isProven: false };
    while (responses.length < CONTROLS) {
      const step = this.step('control', []);
      const heard = await ask(step);
      if (isStopped()) return { type: 'nothing', sentence: 'Stopped before anything was known.' };
      if (heard.type === 'none') return { type: 'nothing', sentence: heard.sentence };
      if (heard.type === 'busy')
        return {
          type: 'nothing',
          sentence: `The server puts off what it is asked (${heard.status}). Try again later.`,
        };
      responses.push(ofUse(heard.response));
      onReply(step, String(heard.response.status), true, nothing);
    }
    const [first, second] = responses as [HeldResponse, HeldResponse];
    const unlike = holdAgainst(first, second).differences.find(
      ({ of, changes }) => of !== 'value' && changes === undefined,
    );
    if (unlike !== undefined) {
      const what = unlike.of === 'status' ? `${first.status}, then ${second.status}` : `${unlike.place} differs`;
      return { type: 'unsteady', sentence: `The unchanged draft does not get the same response twice: ${what}.` };
    }
    const changing = volatilePlaces(responses);
    const held = captured === undefined ? undefined : holdAgainst(ofUse(captured), first, changing);
    if (measure === 'captured' && held?.verdict === 'differs') {
      const hint = first.status === 401 || first.status === 403 ? ' A token or session may have expired.' : '';
      const what =
        captured?.status === first.status
          ? `The response is not as captured: ${tellWithout(held, first.status)}.`
          : `The response is ${first.status} now, not ${captured?.status} as captured.`;
      return { type: 'other', sentence: `${what}${hint}` };
    }
    return { measure: first, changing };
  }
}

/** The draft as a client sends it that has a User-Agent of its own, where the sheet says none. */
function withAgent(draft: Draft, agent: string | undefined): Draft {
  const says = draft.headers.some(({ name, kept }) => kept && name.toLowerCase() === 'user-agent');
  if (agent === undefined || says) return draft;
  const own = { name: 'User-Agent', value: agent, role: 'own', kept: true, reason: '' } as const;
  return { ...draft, headers: [...draft.headers, own] };
}

/** Headers that a browser, a cache or a cookie jar reads: whoever wants the data gets the same without them. */
const FOR_OTHERS =
  /^(?:access-control-|cross-origin-|timing-allow-origin$|vary$|via$|set-cookie$|x-cache|x-served-by$|x-timer$|alt-svc$|nel$|report-to$)/i;

/** A response as whoever uses its data sees it. */
const ofUse = (response: HeldResponse): HeldResponse => ({
  ...response,
  headers: response.headers.filter(({ name }) => !FOR_OTHERS.test(name)),
});

function replyOf({ measure, changing }: Control, heard: Exclude<TrimHeard, { type: 'busy' }>): Reply {
  if (heard.type === 'none') return { isSame: false, reason: `no response: ${heard.sentence}` };
  const held = holdAgainst(measure, ofUse(heard.response), changing);
  if (held.verdict !== 'differs') return { isSame: true };
  return { isSame: false, reason: tellWithout(held, heard.response.status) };
}
