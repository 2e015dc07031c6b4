// The drawing of exchanges over time as numbers: an axis of times, and the stairs of an exchange. The app's charts and those of
// files are drawn by it.
export { clip, type Scale, type Tick, ticksOf, toMs, toPx, wholeOf } from './scale';
export { phaseAt, type Step, stairsOf } from './stairs';
export { strokesAt } from './strokes';
