import type { ChartColours } from './chart-svg';

/** The colours of the look that is on screen. */
export function readColours(): ChartColours {
  // Colours that follow the look are resolved by the browser only where they are used.
  const probe = document.createElement('span');
  document.body.append(probe);
  const of = (name: string): string => {
    probe.style.color = `var(--${name})`;
    return getComputedStyle(probe).color;
  };
  const colours = {
    paper: of('paper'),
    ink: of('ink'),
    soft: of('soft'),
    grid: of('grid'),
    outcome: { plain: of('net'), cached: of('cached'), redirect: of('redirect'), failed: of('failed') },
  };
  probe.remove();
  return colours;
}
