interface BarButtonProps {
  readonly label: string;
  readonly onClick: () => void;
  readonly children: string;
  readonly isSubmit?: boolean;
}

/** A word in the bar, or under it, that does something; a press leaves the focus in the field. */
export function BarButton({ label, onClick, children, isSubmit = false }: BarButtonProps) {
  return (
    <button
      type={isSubmit ? 'submit' : 'button'}
      aria-label={label}
      onMouseDown={(event) => {
        if (!isSubmit) event.preventDefault();
      }}
      onClick={(event) => {
        if (!isSubmit) event.stopPropagation();
        onClick();
      }}
      className="text-[12px] text-soft underline hover:text-ink"
    >
      {children}
    </button>
  );
}
