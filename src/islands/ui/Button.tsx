import type { ReactNode } from 'react';
import { type ControlAction, useControl } from './use-actions';

interface ButtonProps {
  readonly children: ReactNode;
  readonly onClick?: () => void;
  /** Sends the form around it. */
  readonly isSubmit?: boolean;
  /** The key that does the same, shown behind the label. */
  readonly hint?: string;
  /** Filled for the one main thing to do in a place. */
  readonly isMain?: boolean;
  /** Nothing can be done by it as things stand. */
  readonly isOff?: boolean;
  readonly label?: string;
  /** The action by which a key presses it. */
  readonly action?: ControlAction;
}

/** The one button: hairline, or filled for the main thing to do. */
export function Button({
  children,
  onClick,
  hint,
  isSubmit = false,
  isMain = false,
  isOff = false,
  label,
  action,
}: ButtonProps) {
  const element = useControl<HTMLButtonElement>(action, 'click');
  const keys = hint ?? action?.keys[0];
  const look = isMain ? 'bg-ink text-paper' : 'bg-sheet text-ink hover:bg-paper';
  return (
    <button
      type={isSubmit ? 'submit' : 'button'}
      ref={element}
      onClick={onClick}
      disabled={isOff}
      aria-label={label}
      aria-keyshortcuts={keys}
      className={`inline-flex items-center gap-2 border border-ink px-2.5 py-1 font-semibold text-[13px] disabled:opacity-50 ${look}`}
    >
      {children}
      {keys === undefined ? null : <KeyHint keys={keys} />}
    </button>
  );
}

/** A key as it is written beside what it does. */
export function KeyHint({ keys }: { readonly keys: string }) {
  return <kbd className="font-mono text-[11px] opacity-75">{keys}</kbd>;
}
