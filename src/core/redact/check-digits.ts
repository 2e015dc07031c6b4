// Numbers that prove themselves by a check digit: what has none, or a wrong one, is no such number.

/** Luhn's formula (ISO/IEC 7812-1 annex B). @param digits digits alone */
export function passesLuhn(digits: string): boolean {
  let sum = 0;
  for (let at = 0; at < digits.length; at++) {
    const digit = Number(digits[digits.length - 1 - at]);
    const doubled = at % 2 === 1 ? digit * 2 : digit;
    sum += doubled > 9 ? doubled - 9 : doubled;
  }
  return digits.length > 0 && sum % 10 === 0;
}

/** A payment card: 13 to 19 digits that begin as issuers of cards do, with Luhn's check digit. */
export const isCard = (digits: string): boolean =>
  /^(?:[3456]\d{12,18}|2[2-7]\d{14})$/.test(digits) && !/^(\d)\1+$/.test(digits) && passesLuhn(digits);

const IBAN_LENGTHS: Readonly<Record<string, number>> = {
  AD: 24,
  AT: 20,
  BE: 16,
  BG: 22,
  CH: 21,
  CY: 28,
  CZ: 24,
  DE: 22,
  DK: 18,
  EE: 20,
  ES: 24,
  FI: 18,
  FR: 27,
  GB: 22,
  GR: 27,
  HR: 21,
  HU: 28,
  IE: 22,
  IS: 26,
  IT: 27,
  LI: 21,
  LT: 20,
  LU: 20,
  LV: 21,
  MC: 27,
  MT: 31,
  NL: 18,
  NO: 15,
  PL: 28,
  PT: 25,
  RO: 24,
  SE: 24,
  SI: 19,
  SK: 24,
  SM: 27,
  TR: 26,
};

/** A bank account: its country's length, and 97 as the modulus (ISO 13616-1). @param text without spaces, in capitals */
export function isIban(text: string): boolean {
  if (IBAN_LENGTHS[text.slice(0, 2)] !== text.length || !/^[A-Z]{2}\d{2}[A-Z0-9]+$/.test(text)) return false;
  let rest = 0;
  for (const character of text.slice(4) + text.slice(0, 4)) {
    const value = Number.parseInt(character, 36);
    rest = (rest * (value > 9 ? 100 : 10) + value) % 97;
  }
  return rest === 1;
}

const DNI_LETTERS = 'TRWAGMYFPDXBNJZSQVHLCKE';

/** A Spanish DNI or NIE: its letter is the number modulo 23. */
export function isDni(text: string): boolean {
  const match = /^([XYZ]?)(\d{7,8})([A-Z])$/.exec(text);
  if (match === null) return false;
  const [, first = '', digits = '', letter] = match;
  if (first.length + digits.length !== 8) return false;
  const prefix = first === '' ? '' : String('XYZ'.indexOf(first));
  return DNI_LETTERS[Number(prefix + digits) % 23] === letter;
}

/** A Brazilian CPF: two check digits, each a weighted sum modulo 11. @param digits eleven of them */
export function isCpf(digits: string): boolean {
  if (!/^\d{11}$/.test(digits) || /^(\d)\1+$/.test(digits)) return false;
  const checkOf = (length: number): number => {
    let sum = 0;
    for (let at = 0; at < length; at++) sum += Number(digits[at]) * (length + 1 - at);
    return ((sum * 10) % 11) % 10;
  };
  return checkOf(9) === Number(digits[9]) && checkOf(10) === Number(digits[10]);
}
