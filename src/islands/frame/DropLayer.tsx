import { useEffect, useRef, useState } from 'react';
import { tell } from '../state/notices';
import { upload } from '../state/uploads';
import { droppedFiles } from './dropped-files';

/** Takes files in that are dropped or pasted anywhere on the page. */
export function DropLayer() {
  const [isOver, setOver] = useState(false);
  const depth = useRef(0);
  useEffect(() => {
    const carriesFiles = (event: DragEvent): boolean => event.dataTransfer?.types.includes('Files') === true;
    const onEnter = (event: DragEvent): void => {
      if (!carriesFiles(event)) return;
      depth.current++;
      setOver(true);
    };
    const onLeave = (event: DragEvent): void => {
      if (!carriesFiles(event)) return;
      depth.current = Math.max(0, depth.current - 1);
      if (depth.current === 0) setOver(false);
    };
    const onOver = (event: DragEvent): void => {
      if (carriesFiles(event)) event.preventDefault();
    };
    const onDrop = (event: DragEvent): void => {
      if (!carriesFiles(event)) return;
      event.preventDefault();
      depth.current = 0;
      setOver(false);
      if (event.dataTransfer !== null) takeDropped(event.dataTransfer);
    };
    const onPaste = (event: ClipboardEvent): void => takePasted(event);
    addEventListener('dragenter', onEnter);
    addEventListener('dragleave', onLeave);
    addEventListener('dragover', onOver);
    addEventListener('drop', onDrop);
    addEventListener('paste', onPaste);
    return () => {
      removeEventListener('dragenter', onEnter);
      removeEventListener('dragleave', onLeave);
      removeEventListener('dragover', onOver);
      removeEventListener('drop', onDrop);
      removeEventListener('paste', onPaste);
    };
  }, []);
  if (!isOver) return null;
  return (
    <div className="pointer-events-none fixed inset-0 z-50 flex items-center justify-center border-4 border-route border-dashed bg-paper/85">
      <p className="font-bold text-2xl">Drop to import it</p>
    </div>
  );
}

async function takeDropped(transfer: DataTransfer): Promise<void> {
  let files: File[];
  try {
    files = await droppedFiles(transfer);
  } catch {
    tell('The browser may not read this folder.', { detail: 'Drop the files in it instead, or choose them.' });
    return;
  }
  if (files.length === 0) {
    tell('No capture found in the dropped files.', { detail: 'Drop files that end in .har, .json, .zip or .gz.' });
  }
  await takeIn(files);
}

/** Uploads files one after the other, in the order in which they came. */
export async function takeIn(files: readonly File[]): Promise<void> {
  for (const file of files) await upload(file);
}

function takePasted(event: ClipboardEvent): void {
  const target = event.target as HTMLElement | null;
  if (target !== null && /^(INPUT|TEXTAREA)$/.test(target.tagName)) return;
  const files = [...(event.clipboardData?.files ?? [])];
  const text = event.clipboardData?.getData('text/plain') ?? '';
  if (files.length > 0) takeIn(files);
  else if (/^\s*[[{]/.test(text)) takeIn([new File([text], 'pasted capture')]);
  else if (text !== '')
    tell('The pasted text is not a capture.', { detail: 'Copy the text of a .har file, from { to }.' });
}
