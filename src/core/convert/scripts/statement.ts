import type { JsonSteps } from '../../json';
import type { CarriedAs, CarrySource } from '../carry';
import type { Draft, Variable } from '../draft';
import type { NextPlace, NumberPlace, RowFormat } from '../loops/loop';
import type { Writing } from '../loops/parameter';
import type { RenderOptions } from '../options';
import type { Plan, PlanBody } from '../plan';
import type { ScriptTarget } from './script-target';

/** What a place of an answer is waited to be: a text, or one of JSON's own words and numbers, or its text. */
export interface Expected {
  readonly text: string;
  /** The value that the text stands for in JSON; absent where it stands for none. */
  readonly value?: number | boolean | null | object;
  /** It is waited to be a number that is less or more than another one, in place of all that. */
  readonly than?: { readonly comparison: '<' | '<=' | '>' | '>='; readonly number: string };
}

/** How a loop over pages goes from one to the next. */
export type PagesBy =
  /** `LOOP_VARIABLE` counts. */
  | {
      readonly by: 'counter';
      readonly from: number;
      readonly to: number | undefined;
      /** A number, or as many rows as came. */
      readonly step: number | 'rows';
    }
  /** `LOOP_VARIABLE` goes through these, as they are written in its place. */
  | { readonly by: 'values'; readonly values: readonly string[] }
  /** `LOOP_VARIABLE` gets what the statement `next` finds. */
  | { readonly by: 'response'; readonly first: string };

/**
 * What a script does, whatever it is written in. A request leaves its response in `response`, and where it is read, its
 * JSON in `data`. What stands at no place of it is null everywhere.
 */
export type Statement =
  /** A request of several, under its title. */
  | { readonly do: 'step'; readonly title: string; readonly body: readonly Statement[] }
  | {
      readonly do: 'request';
      readonly draft: Draft;
      /** What is said to have failed, where that ends the script; empty for a script's only request. */
      readonly called: string;
      /** How often a server that is busy is asked again. */
      readonly retries: number;
      /** A redirect is not followed: where it leads is a request of the script's own, or what it says is taken. */
      readonly stopsAtRedirect: boolean;
      /** A status that says failure does not end the script. */
      readonly mayFail: boolean;
      readonly readsJson: boolean;
      readonly readsText: boolean;
      readonly readsHeaders: boolean;
    }
  /** Puts a text of the response into a variable; without one the script ends in a sentence. */
  | {
      readonly do: 'take';
      readonly into: Variable;
      readonly source: CarrySource;
      readonly as: CarriedAs;
      readonly lacking: string;
    }
  /** Says the status and the URL. */
  | { readonly do: 'report' }
  | { readonly do: 'pause'; readonly pauseMs: number }
  /** Goes from page to page; a table of the rows that were gathered is written however the loop ends, by a failure too. */
  | {
      readonly do: 'pages';
      readonly moves: PagesBy;
      readonly most: number;
      readonly stopped: string;
      readonly rows: RowFormat;
      readonly body: readonly Statement[];
    }
  /** Adds the list at a place to the rows. */
  | {
      readonly do: 'gather';
      readonly list: JsonSteps;
      readonly lacking: string;
      readonly rows: RowFormat;
      /** Ends the loop where the list is empty or the one of before. */
      readonly endsEmpty: boolean;
      /** Ends it where the list is shorter than the first, which still counts. */
      readonly endsShort: boolean;
    }
  /** Ends the loop where as many rows or pages came as a place of the response says. */
  | { readonly do: 'enough'; readonly of: 'rows' | 'pages'; readonly place: NumberPlace; readonly rows: RowFormat }
  /** Finds what the response names as next, and ends the loop where it names nothing or the same again. */
  | {
      readonly do: 'next';
      readonly place: NextPlace;
      readonly writing: Writing;
      /** It is an address, and has to be of the request's own site: its credentials go with it. */
      readonly isAddress: boolean;
      readonly elsewhere: string;
    }
  | { readonly do: 'tries'; readonly most: number; readonly inVain: string; readonly body: readonly Statement[] }
  /** Prints the response's JSON and ends the loop where a place of it is what is expected. */
  | { readonly do: 'until'; readonly at: JsonSteps; readonly is: Expected }
  /** Prints the response's body and ends the loop where its status is the one that is expected. */
  | { readonly do: 'until-status'; readonly status: number }
  /** Writes the list at a place. */
  | { readonly do: 'write-list'; readonly list: JsonSteps; readonly lacking: string; readonly rows: RowFormat }
  /** Downloads the addresses at a place, each as the response's own URL makes it absolute (RFC 3986 5). */
  | {
      readonly do: 'download';
      readonly at: JsonSteps;
      readonly folder: string;
      /** Headers of the request that downloads from the same origin are sent with: they are its credentials. */
      readonly credentials: readonly string[];
    };

export type Do = Statement['do'];
export type StatementOf<D extends Do> = Extract<Statement, { readonly do: D }>;

/** What the pages of a loop are gathered by. */
export function gatherIn(body: readonly Statement[]): StatementOf<'gather'> | undefined {
  for (const statement of body) if (statement.do === 'gather') return statement;
  return undefined;
}

/** A statement in some language: what stands before the loop that it is in, and what is done each time. */
export interface Lines {
  readonly before: readonly string[];
  readonly lines: readonly string[];
}

export const linesOf = (...lines: readonly string[]): Lines => ({ before: [], lines });

/** What stands before a statement's loop and what is done in it, where there is no loop to tell them apart. */
export const inOrder = ({ before, lines }: Lines): string[] => [...before, ...lines];

/** Statements one after the other. */
export const joinAll = (parts: readonly Lines[]): Lines => ({
  before: parts.flatMap(({ before }) => before),
  lines: parts.flatMap(({ lines }) => lines),
});

/** What a script needs beside its statements, gathered while they are written. */
export class ScriptNeeds {
  readonly plans: Plan[] = [];
  readonly imports = new Set<string>();
  readonly helpers = new Set<string>();
  readonly options: RenderOptions;

  constructor(options: RenderOptions) {
    this.options = options;
  }

  /** The options of one request. */
  optionsOf(stopsAtRedirect: boolean): RenderOptions {
    return stopsAtRedirect ? { ...this.options, redirects: 'stop' } : this.options;
  }

  /** Notes a plan whose warnings and variables are the script's. */
  plan<Body extends PlanBody>(plan: Plan<Body>): Plan<Body> {
    this.plans.push(plan);
    return plan;
  }

  import(...names: readonly string[]): void {
    for (const name of names) this.imports.add(name);
  }

  help(...names: readonly string[]): void {
    for (const name of names) this.helpers.add(name);
  }
}

/** Writes one kind of statement. `write` writes those that stand in it. */
export type StatementWriter<D extends Do> = (
  statement: StatementOf<D>,
  needs: ScriptNeeds,
  write: (statements: readonly Statement[]) => Lines,
) => Lines;

/** A language that scripts are written in: one file, and a row in the list. */
export interface ScriptLanguage {
  readonly target: ScriptTarget;
  readonly statements: { readonly [D in Do]: StatementWriter<D> };
  /**
   * The whole file.
   * @param own variables that are declared with their values
   * @param taken variables that answers give
   */
  readonly file: (
    body: readonly string[],
    needs: ScriptNeeds,
    own: readonly Variable[],
    taken: readonly Variable[],
  ) => string[];
  /** What has to be there to run it, in a sentence each. */
  readonly requirements: (needs: ScriptNeeds) => readonly string[];
}

/** What a script says of a response that is no JSON where its JSON is read; what came stands behind it. */
export const NO_JSON = 'The response is no JSON:';
