import { tell } from '../state/notices';
import { copyText } from './copy';

interface CopyButtonProps {
  /** What is copied; asked for when the button is pressed, as it may be long. */
  readonly text: () => string | Promise<string>;
  /** With Shift held: the name as well. */
  readonly withName?: () => string;
  readonly label: string;
  readonly children?: string;
}

/** Copies a value; with Shift its name too. */
export function CopyButton({ text, withName, label, children = 'copy' }: CopyButtonProps) {
  return (
    <button
      type="button"
      aria-label={label}
      title={withName === undefined ? label : `${label} (Shift: with its name)`}
      onClick={async (event) => {
        event.stopPropagation();
        const copied = await copyText(event.shiftKey && withName !== undefined ? withName() : await text());
        tell(copied ? 'Copied.' : 'The browser does not allow this page to copy.');
      }}
      className="font-normal font-sans text-[12px] text-soft underline hover:text-ink"
    >
      {children}
    </button>
  );
}
