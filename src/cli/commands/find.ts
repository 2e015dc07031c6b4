import { type Hit, prepareSearch, type Search, wordFindProblem } from '#core/find';
import { type Exchange, findResponse } from '#core/model';
import { TookTooLong } from '#server/find/bounded';
import { findIn } from '#server/find/find-in-capture';
import type { KeptBody } from '#server/find/texts';
import { readExchanges, UsageError, withInput } from '../input';
import { printJson, printLines } from '../output';

interface FindOptions {
  readonly regex?: true;
  readonly case?: true;
  readonly word?: true;
  readonly json?: true;
}

/** Finds a text everywhere in a capture. */
export function find(file: string, text: string, options: FindOptions): void {
  const prepared = prepareSearch({
    text,
    isRegex: options.regex === true,
    matchesCase: options.case === true,
    wholeWord: options.word === true,
  });
  if (!prepared.ok) throw new UsageError(wordFindProblem(prepared.problem));
  const hits = withInput(file, (path) => findInFile(path, prepared.search));
  if (options.json === true) printJson(hits.map(hitJson));
  else if (hits.length > 0) printLines(hits.map(lineOf));
}

function findInFile(path: string, search: Search): Hit[] {
  const hits: Hit[] = [];
  for (const exchange of readExchanges(path)) {
    try {
      hits.push(...findIn(exchange, keptBody(exchange), search));
    } catch (error) {
      if (!(error instanceof TookTooLong)) throw error;
      throw new UsageError(`This regular expression takes too long on exchange ${exchange.index}: ${error.message}.`);
    }
  }
  return hits;
}

function keptBody(exchange: Exchange): KeptBody | undefined {
  const body = findResponse(exchange)?.body;
  if (body === undefined) return undefined;
  const isDecodedText = body.encoding === 'text';
  return { bytes: Buffer.from(body.text, isDecodedText ? 'utf8' : 'base64'), isDecodedText };
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
