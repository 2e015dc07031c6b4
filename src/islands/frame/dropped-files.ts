import { mayHoldCapture } from '#core/har';

/** The files of a drop; of folders, those in them at any depth that may be captures. */
export async function droppedFiles(transfer: DataTransfer): Promise<File[]> {
  // Entries must be asked for before anything is awaited: the drop's data is gone after its event.
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry?.() ?? null);
  const plain = [...transfer.files];
  if (entries.every((entry) => entry === null || entry.isFile)) return plain;
  const found = await Promise.all(entries.map((entry) => (entry === null ? [] : filesOf(entry))));
  return found.flat();
}

async function filesOf(entry: FileSystemEntry): Promise<File[]> {
  if (isDirectory(entry)) {
    const found = await Promise.all((await childrenOf(entry)).map(filesOf));
    return found.flat().filter((file) => mayHoldCapture(file.name));
  }
  return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
}

const isDirectory = (entry: FileSystemEntry): entry is FileSystemDirectoryEntry => entry.isDirectory;

/** Browsers hand over a folder's children in portions, the last of which is empty. */
async function childrenOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const children: FileSystemEntry[] = [];
  for (;;) {
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (portion.length === 0) return children;
    children.push(...portion);
  }
}
