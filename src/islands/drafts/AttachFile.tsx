import { attach, type KeptDraft, type Sheet } from '#core/sheet';
import { tell } from '../state/notices';
import { UNREADABLE_FILE } from '../state/unreadable-file';

interface AttachFileProps {
  /** The line under the cursor: in a form of parts the file becomes the content of its part. */
  readonly at: number;
  /** Changes the sheet as it is by then: it may be typed on while the file is read. */
  readonly onSheet: (change: (kept: KeptDraft) => Sheet) => void;
}

/** More is not kept with a draft. */
const MOST_BYTES = 50 * 1024 * 1024;

/** Lets a file's bytes be the payload, or a part of a form. */
export function AttachFile({ at, onSheet }: AttachFileProps) {
  const take = async (file: File): Promise<void> => {
    if (file.size > MOST_BYTES) {
      tell('Files of up to 50 MB can be attached.');
      return;
    }
    try {
      const bytes = new Uint8Array(await file.arrayBuffer());
      onSheet(({ sheet }) => attach(sheet, bytes, at));
    } catch {
      tell(UNREADABLE_FILE);
    }
  };
  return (
    <label className="cursor-pointer underline focus-within:outline-2 focus-within:outline-route hover:text-ink">
      attach a file
      <input
        type="file"
        aria-label="A file as the payload"
        className="sr-only"
        onChange={({ target }) => {
          const file = target.files?.[0];
          if (file !== undefined) void take(file);
          target.value = '';
        }}
      />
    </label>
  );
}
