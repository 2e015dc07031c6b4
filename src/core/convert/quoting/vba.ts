import { UNSEEN } from './escape';

/** What a VBA source file, which is in the code page of its machine, may not hold as it stands. */
const CODED = new RegExp(`${UNSEEN.source}|[^\\x20-\\x7e]`, 'u');
const NAMED: Readonly<Record<string, string>> = { '\r\n': 'vbCrLf', '\n': 'vbLf', '\r': 'vbCr', '\t': 'vbTab' };

/** The terms of a VBA expression that comes to a text: literals, in which a quote is doubled, and characters by their code. */
export function vbaTerms(text: string, mostChars = Number.POSITIVE_INFINITY): string[] {
  const terms: string[] = [];
  let literal = '';
  const end = (): void => {
    if (literal !== '') terms.push(`"${literal}"`);
    literal = '';
  };
  for (const [part] of text.toWellFormed().matchAll(/\r\n|[\s\S]/gu)) {
    if (NAMED[part] === undefined && !CODED.test(part)) {
      literal += part === '"' ? '""' : part;
      if (literal.length >= mostChars) end();
      continue;
    }
    end();
    if (NAMED[part] !== undefined) terms.push(NAMED[part]);
    // ChrW takes one half of a character beyond U+FFFF at a time.
    else for (let at = 0; at < part.length; at++) terms.push(`ChrW(${part.charCodeAt(at)})`);
  }
  end();
  return terms.length === 0 ? ['""'] : terms;
}

/** A VBA expression that comes to a text. */
export const quoteVba = (text: string): string => vbaTerms(text).join(' & ');
