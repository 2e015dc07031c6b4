import { describe, expect, it } from 'vitest';
import { droppedFiles } from './dropped-files';

const fileEntry = (name: string) => ({
  isFile: true,
  isDirectory: false,
  name,
  file: (resolve: (file: File) => void) => resolve(new File([], name)),
});

/** A folder that hands its children over in portions of two, as browsers do in portions of a hundred. */
const folderEntry = (name: string, children: readonly unknown[]) => ({
  isFile: false,
  isDirectory: true,
  name,
  createReader: () => {
    let at = 0;
    return {
      readEntries: (resolve: (portion: unknown[]) => void) => {
        resolve(children.slice(at, at + 2));
        at += 2;
      },
    };
  },
});

const dropOf = (entries: readonly unknown[], files: readonly File[] = []): DataTransfer =>
  ({ items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })), files }) as unknown as DataTransfer;

const namesOf = async (transfer: DataTransfer): Promise<string[]> =>
  (await droppedFiles(transfer)).map(({ name }) => name);

describe('droppedFiles', () => {
  it('takes plain files whatever their names', async () => {
    const files = [new File([], 'load'), new File([], 'b.har')];
    expect(await namesOf(dropOf([fileEntry('load'), fileEntry('b.har')], files))).toEqual(['load', 'b.har']);
  });

  it('takes from folders, at any depth, what may be a capture', async () => {
    const deep = folderEntry('deep', [fileEntry('low.HAR'), fileEntry('x.png')]);
    const folder = folderEntry('top', [
      fileEntry('1.har'),
      fileEntry('2.json'),
      deep,
      fileEntry('3.zip'),
      fileEntry('4.gz'),
      fileEntry('5.txt'),
    ]);
    expect(await namesOf(dropOf([folder, fileEntry('beside')]))).toEqual([
      '1.har',
      '2.json',
      'low.HAR',
      '3.zip',
      '4.gz',
      'beside',
    ]);
  });

  it('passes on that a folder may not be read', async () => {
    const locked = {
      isDirectory: true,
      createReader: () => ({ readEntries: (_: unknown, reject: (e: Error) => void) => reject(new Error('no')) }),
    };
    await expect(droppedFiles(dropOf([locked]))).rejects.toThrow('no');
  });
});
