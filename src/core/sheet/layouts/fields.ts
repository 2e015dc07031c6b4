import { isStruck, type Layout, type SheetProblem } from '../sheet';

/** What a form's field may not hold as it stands (URL Standard 5.2). */
const UNENCODED = /[\s<>"`]+|[^\0-\x7f‹›]+/;

/** A form's fields, one a line: the first as it stands, the others behind an ampersand. */
export const fields: Layout = {
  id: 'fields',
  label: 'form fields',
  canStrike: true,
  write: (payload, contentType) => {
    if (payload.type !== 'text' || !/x-www-form-urlencoded/i.test(contentType)) return undefined;
    const lines = payload.text.split('&');
    if (payload.text === '' || lines.some((line) => line.includes('\n') || isStruck(line))) return undefined;
    return lines.map((line, at) => (at === 0 ? line : `&${line}`)).join('\n');
  },
  read: (lines) => {
    const kept = lines.filter(({ text }) => !isStruck(text));
    const text = kept.map((line, at) => (at === 0 ? line.text.replace(/^&(?=.)/, '') : withSign(line.text))).join('');
    const problems = kept.flatMap((line): SheetProblem[] => {
      const found = UNENCODED.exec(line.text);
      if (found === null) return [];
      const from = line.from + found.index;
      const encoded = encodeURIComponent(found[0].toWellFormed());
      return [{ from, to: from + found[0].length, sentence: `In a form this is written ${encoded}.`, bars: false }];
    });
    return { payload: text === '' ? { type: 'none' } : { type: 'text', text }, problems };
  },
};

const withSign = (line: string): string => (line.startsWith('&') ? line : `&${line}`);
