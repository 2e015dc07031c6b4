import { splitUrl } from '../http';

/** Where a text names an address. */
export interface Mention {
  /** In UTF-16 units from the text's start. */
  readonly offset: number;
  readonly length: number;
  /** How it is named there. */
  readonly form: 'whole' | 'without scheme' | 'path' | 'file name';
}

/** Shorter file names stand in any text by chance. */
const LEAST_NAME_CHARS = 5;

/** The place where a text names an address, the longest form first: as a whole, without its scheme, its path, its file. */
export function findMention(text: string, url: string): Mention | undefined {
  const parts = splitUrl(url);
  if (parts === undefined) return undefined;
  const { origin, path, query } = parts;
  const name = path.split('/').at(-1) ?? '';
  const spellings: readonly (readonly [Mention['form'], string])[] = [
    ['whole', origin + path + query],
    ['without scheme', `//${parts.authority}${path}${query}`],
    ['path', path.length > 1 ? path + query : ''],
    ['path', path.length > 1 ? path : ''],
    ['file name', name.length >= LEAST_NAME_CHARS ? name + query : ''],
    ['file name', name.length >= LEAST_NAME_CHARS ? name : ''],
  ];
  for (const [form, spelling] of spellings) {
    for (const written of spelling === ''
      ? []
      : [spelling, spelling.replaceAll('/', '\\/'), spelling.replaceAll('&', '&amp;')]) {
      const offset = text.indexOf(written);
      if (offset !== -1) return { offset, length: written.length, form };
    }
  }
  return undefined;
}
