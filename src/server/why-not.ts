/** The system's names for what stands in the way of a file, in words; each goes on a sentence "... cannot be read: ". */
const WHY: Readonly<Record<string, string>> = {
  ENOENT: 'there is no such file',
  EACCES: 'it is not yours to use',
  EPERM: 'it is not yours to use',
  EISDIR: 'it is a folder',
  ENOTDIR: 'a part of its path is not a folder',
  EEXIST: 'something else has its name already',
  ENOSPC: 'the disk is full',
  EDQUOT: 'your share of the disk is full',
  EROFS: 'the disk may only be read',
  ENAMETOOLONG: 'its path is too long',
  ELOOP: 'its links lead in a circle',
  EMFILE: 'too many files are open',
  EIO: 'the disk does not answer as it should',
};

/** Why a file could not be used, in the words of whoever has to see to it; else by the system's own name for it. */
export function whyNot(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException;
  return code === undefined ? String(error) : (WHY[code] ?? code);
}
