/** The in-flight profile of a capture, small: how many exchanges were open over the recording. */
export function Miniature({ slots }: { readonly slots: readonly number[] }) {
  const max = Math.max(1, ...slots);
  const points = slots.flatMap((open, at) => {
    const y = 40 - (open / max) * 36;
    return [`${at},${y}`, `${at + 1},${y}`];
  });
  return (
    <svg
      viewBox={`0 0 ${Math.max(1, slots.length)} 41`}
      preserveAspectRatio="none"
      aria-hidden="true"
      className="h-14 w-60"
    >
      <polygon points={`0,40 ${points.join(' ')} ${slots.length},40`} className="fill-net/20" />
      <polyline points={points.join(' ')} vectorEffect="non-scaling-stroke" className="fill-none stroke-net" />
      <line x1="0" x2={slots.length} y1="40" y2="40" vectorEffect="non-scaling-stroke" className="stroke-line" />
    </svg>
  );
}
