/** The arrow before what can be folded: to the right when it is, down when it is open. */
export function FoldMark({ isFolded }: { readonly isFolded: boolean }) {
  return (
    <svg
      width="10"
      height="10"
      viewBox="0 0 10 10"
      aria-hidden="true"
      className="shrink-0 fill-none stroke-2 stroke-ink"
    >
      <path d={isFolded ? 'M3 1l4 4l-4 4' : 'M1 3l4 4l4 -4'} />
    </svg>
  );
}
