/** A JSON value as JSON.parse gives it. */
export type Json = string | number | boolean | null | readonly Json[] | JsonObject;
export interface JsonObject {
  readonly [key: string]: Json;
}

/** True for a JSON object; arrays and null are none. */
export const isObject = (value: Json | undefined): value is JsonObject =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** A member of an object, own members only: captured keys such as "constructor" must not find the language's own. */
export const member = (value: Json | undefined, key: string): Json | undefined =>
  isObject(value) && Object.hasOwn(value, key) ? value[key] : undefined;

export const asText = (value: Json | undefined): string | undefined => (typeof value === 'string' ? value : undefined);

/** Text that is worth showing: absent where it is missing, of another type or blank. */
export const asFilledText = (value: Json | undefined): string | undefined =>
  typeof value === 'string' && value.trim() !== '' ? value : undefined;

export const asList = (value: Json | undefined): readonly Json[] => (Array.isArray(value) ? value : []);

/** A number as JSON writes it (RFC 8259 6), in text. */
const NUMBER_TEXT = /^[+-]?\d+(?:\.\d*)?(?:e[+-]?\d+)?$/i;

/** A finite number; recorders that write numbers as text are read too. */
export function asNumber(value: Json | undefined): number | undefined {
  if (typeof value === 'number') return Number.isFinite(value) ? value : undefined;
  if (typeof value !== 'string' || !NUMBER_TEXT.test(value.trim())) return undefined;
  const number = Number(value);
  return Number.isFinite(number) ? number : undefined;
}

/** A length or a count: HAR writes -1 for "does not apply" and "unknown" (HAR 1.2, timings and sizes). */
export function asAmount(value: Json | undefined): number | undefined {
  const number = asNumber(value);
  return number === undefined || number < 0 ? undefined : number;
}

/** The word for a JSON value's type, as error sentences use it. */
export function typeWord(value: Json | undefined): string {
  if (value === undefined) return 'missing';
  if (value === null) return 'null';
  if (Array.isArray(value)) return 'a list';
  switch (typeof value) {
    case 'object':
      return 'an object';
    case 'string':
      return 'text';
    case 'number':
      return 'a number';
    default:
      return 'true or false';
  }
}
