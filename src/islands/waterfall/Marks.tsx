import { byInk, type Ink, type Mark } from './strip-marks';

interface InkStyle {
  readonly fillOpacity?: number;
  readonly strokeWidth?: number;
  readonly strokeDasharray?: string;
  readonly className?: string;
}

/** How each ink looks; the hue is that of what encloses it. */
function styleOf(ink: Ink): InkStyle {
  switch (ink) {
    case 'narrow':
      return { strokeWidth: 0 };
    case 'stroke':
      return { className: 'fill-none', strokeWidth: 1.5 };
    case 'unrecorded':
      return { className: 'fill-none stroke-2', strokeDasharray: '2 3' };
    case 'unphased':
      return { fillOpacity: 0, strokeDasharray: '3 2' };
    default:
      return { fillOpacity: Number(ink.slice('tone '.length)) };
  }
}

/** Marks of one hue: what is drawn alike is one element. */
export const Marks = ({ marks }: { readonly marks: readonly Mark[] }) =>
  [...byInk(marks)].map(([ink, d]) => <path key={ink} d={d} {...styleOf(ink)} />);
