import { attach, type Sheet } from '#core/sheet';
import { tell } from '../state/notices';

interface AttachFileProps {
  readonly sheet: Sheet;
  /** The line under the cursor: in a form of parts the file becomes the content of its part. */
  readonly at: number;
  readonly onSheet: (sheet: Sheet) => void;
}

/** More is not kept with a draft. */
const MOST_BYTES = 50 * 1024 * 1024;

/** Lets a file's bytes be the payload, or a part of a form. */
export function AttachFile({ sheet, at, onSheet }: AttachFileProps) {
  return (
    <label className="cursor-pointer underline focus-within:outline-2 focus-within:outline-route hover:text-ink">
      attach a file
      <input
        type="file"
        aria-label="A file as the payload"
        className="sr-only"
        onChange={async ({ target }) => {
          const file = target.files?.[0];
          if (file === undefined) return;
          if (file.size > MOST_BYTES) tell('Files of up to 50 MB can be attached.');
          else onSheet(attach(sheet, new Uint8Array(await file.arrayBuffer()), at));
          target.value = '';
        }}
      />
    </label>
  );
}
