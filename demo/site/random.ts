/** A number in [0, 1) that a text always gives alike (FNV-1a): the site is the same at every start. */
export function chanceOf(text: string): number {
  let hash = 0x811c9dc5;
  for (let at = 0; at < text.length; at++) {
    hash ^= text.charCodeAt(at);
    hash = Math.imul(hash, 0x01000193);
  }
  // FNV leaves similar texts close together; one more mix spreads them.
  hash ^= hash >>> 15;
  hash = Math.imul(hash, 0x2c1b3c6d);
  hash ^= hash >>> 12;
  return (hash >>> 0) / 4_294_967_296;
}

/** A whole number from `from` to `to`, both included. */
export const between = (text: string, from: number, to: number): number =>
  from + Math.floor(chanceOf(text) * (to - from + 1));

export function pick<T>(text: string, from: readonly T[]): T {
  const item = from[Math.floor(chanceOf(text) * from.length)];
  if (item === undefined) throw new Error('nothing to pick from');
  return item;
}
