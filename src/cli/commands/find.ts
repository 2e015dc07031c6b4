import { type Hit, prepareSearch, type Search, wordBound, wordFindProblem } from '#core/find';
import { type Input, readExchanges } from '#server/capture-file';
import { TookTooLong } from '#server/find/bounded';
import { findIn } from '#server/find/find-in-capture';
import { keptBody } from '#server/find/texts';
import { UsageError, withInput } from '../input';
import { printJson, printLines, tell } from '../output';

interface FindOptions {
  readonly regex?: true;
  readonly case?: true;
  readonly word?: true;
  readonly json?: true;
}

/** Finds a text everywhere in a capture. */
export async function find(file: string, text: string, options: FindOptions): Promise<void> {
  const prepared = prepareSearch({
    text,
    isRegex: options.regex === true,
    matchesCase: options.case === true,
    wholeWord: options.word === true,
  });
  if (!prepared.ok) throw new UsageError(wordFindProblem(prepared.problem));
  const { hits, problem } = await withInput(file, (input) => findInFile(input, prepared.search));
  if (options.json === true) printJson(hits.map(hitJson));
  else if (hits.length > 0) printLines(hits.map(lineOf));
  const bound = wordBound(hits);
  if (bound !== undefined) tell(bound);
  // What was found before stands all the same.
  if (problem !== undefined) throw new UsageError(problem);
}

function findInFile(input: Input, search: Search): { readonly hits: readonly Hit[]; readonly problem?: string } {
  const hits: Hit[] = [];
  for (const exchange of readExchanges(input)) {
    try {
      for (const hit of findIn(exchange, keptBody(exchange), search)) hits.push(hit);
    } catch (error) {
      if (!(error instanceof TookTooLong)) throw error;
      const problem = `This regular expression takes too long on exchange ${exchange.index}: ${error.message}. What was found before it is above.`;
      return { hits, problem };
    }
  }
  return { hits };
}

function hitJson(hit: Hit): unknown {
  const { index, place, path, offset, before, match, after, form } = hit;
  return { index, place, path, offset, before, match, after, form };
}

/** One hit on one line: control characters are shown as dots, so that its surroundings stay short. */
function lineOf({ index, place, path, before, match, after, form }: Hit): string {
  const where = path === undefined ? place : `${place} ${path}`;
  const encoded = form === 'plain' ? '' : ` (${form})`;
  return `${index}  ${where}${encoded}  ${before}[${match}]${after}`.replace(/\p{Cc}/gu, '·');
}
