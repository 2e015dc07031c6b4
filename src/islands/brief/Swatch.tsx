interface SwatchProps {
  readonly fill: string;
  readonly opacity: number;
  readonly name: string;
}

/** A tone of a chart with what it stands for. */
export function Swatch({ fill, opacity, name }: SwatchProps) {
  return (
    <span className="flex items-center gap-1.5">
      <svg width={10} height={10} aria-hidden="true">
        <rect width={10} height={10} fill={fill} fillOpacity={opacity} />
      </svg>
      {name}
    </span>
  );
}
