import { percentDecoded, splitUrl } from '../http';
import { fileNameOf, safeName } from './file-name';

/** What a body's place among files follows from. */
export interface BodyOf {
  /** The exchange's number, which tells bodies of one address apart. */
  readonly index: number;
  readonly url: string;
  readonly mimeType: string | undefined;
  readonly disposition: string | undefined;
  /** The same for the same bytes, and for no others. */
  readonly digest: string;
}

/**
 * Gives each body of a capture a path as the site has it: its host, its folders, its name, parted by "/". Identical bodies of
 * one path share it; others are told apart by the exchange's number. No two paths are one where letters' case does not count,
 * and none is both a file and a folder.
 */
export class BodyPaths {
  /** By what file systems take for the same: the file's digest. */
  readonly #files = new Map<string, string>();
  readonly #folders = new Set<string>();

  /** @returns the path, and whether nothing was written there before */
  take({ index, url, mimeType, disposition, digest }: BodyOf): { readonly path: string; readonly isNew: boolean } {
    const folder = this.#folderFor(foldersOf(url));
    // An address that ends in a folder is what stands in that folder when nothing is named.
    const isFolder = splitUrl(url)?.path.endsWith('/') === true;
    const name = fileNameOf(isFolder ? '/' : url, mimeType, disposition);
    for (let attempt = 0; ; attempt++) {
      const path = `${folder}/${attempt === 0 ? name : numbered(name, attempt === 1 ? `${index}` : `${index}-${attempt}`)}`;
      const key = sameFor(path);
      if (this.#folders.has(key)) continue;
      const before = this.#files.get(key);
      if (before !== undefined && before !== digest) continue;
      this.#files.set(key, digest);
      return { path, isNew: before === undefined };
    }
  }

  /** The folders one below the other; one that is a file already is called otherwise. */
  #folderFor(names: readonly string[]): string {
    let path = '';
    for (const name of names) {
      let own = path === '' ? name : `${path}/${name}`;
      while (this.#files.has(sameFor(own))) own += '-files';
      path = own;
      this.#folders.add(sameFor(path));
    }
    return path;
  }
}

/** File systems differ in whether case and composition of letters tell names apart. */
const sameFor = (path: string): string => path.normalize('NFC').toLowerCase();

const MOST_FOLDERS = 8;
/** Longer paths cannot be unpacked on every system. */
const LONGEST_FOLDERS_CHARS = 120;

/** The host and the folders of an address as names; where they are too many or too long, those in the middle are left out. */
function foldersOf(url: string): string[] {
  const parts = splitUrl(url);
  const host = safeName(parts?.authority.replace(/^.*@/, '') ?? '');
  const folders = (parts?.path ?? '')
    .split('/')
    .slice(0, -1)
    .map((segment) => safeName(percentDecoded(segment)))
    .filter((name) => name !== '');
  const isLong = (): boolean => folders.length > MOST_FOLDERS || folders.join('/').length > LONGEST_FOLDERS_CHARS;
  while (folders.length > 1 && isLong()) folders.splice(Math.floor(folders.length / 2), 1);
  return [host === '' ? 'no-host' : host, ...folders];
}

/** "app.js" with a number is "app-12.js". */
function numbered(name: string, number: string): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? `${name.slice(0, dot)}-${number}${name.slice(dot)}` : `${name}-${number}`;
}
