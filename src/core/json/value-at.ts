import { EACH, type JsonSteps } from './steps';

/** What is at a place of a JSON value; undefined where nothing is, and for a way through each of an array. */
export function valueAt(value: unknown, steps: JsonSteps): unknown {
  let at = value;
  for (const step of steps) {
    if (step === EACH || typeof at !== 'object' || at === null || Array.isArray(at) !== (typeof step === 'number'))
      return undefined;
    at = Object.hasOwn(at, step) ? Reflect.get(at, step) : undefined;
  }
  return at;
}
