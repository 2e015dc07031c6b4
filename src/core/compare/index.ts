// Two exchanges compared with each other, part by part (exchanges.ts).
export { type Difference, type Held, type HeldSide, holdAgainst, PARTS } from './exchanges';
