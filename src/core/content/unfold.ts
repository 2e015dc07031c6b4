import { bytesFromBase64 } from './bytes';

/** What a value says once it is read as what it seems to be. */
export type Unfolded =
  | { readonly type: 'instant'; readonly at: number; readonly unit: 's' | 'ms' | 'µs' }
  | { readonly type: 'url-encoded'; readonly text: string }
  | { readonly type: 'base64'; readonly text: string };

/** Instants are believed from 2000 to 2100 only: other numbers are far likelier to be counts and ids. */
const EARLIEST_MS = Date.UTC(2000, 0);
const LATEST_MS = Date.UTC(2100, 0);
const LONGEST_CHARS = 20_000;
/** Shorter words are base64 by chance. */
const LEAST_BASE64_CHARS = 16;

/** Reads a value as a number of seconds, milliseconds or microseconds since 1970, as URL-encoded text, or as base64. */
export function unfoldValue(value: string): Unfolded | undefined {
  const text = value.trim();
  if (text.length < 3 || text.length > LONGEST_CHARS) return undefined;
  return readEpoch(text) ?? readUrlEncoded(text) ?? readBase64(text);
}

function readEpoch(text: string): Unfolded | undefined {
  const match = /^(\d{10})(\.\d{1,6})?$|^(\d{13})$|^(\d{16})$/.exec(text);
  if (match === null) return undefined;
  const unit = match[1] !== undefined ? 's' : match[3] !== undefined ? 'ms' : 'µs';
  const at = Number(text) * (unit === 's' ? 1000 : unit === 'ms' ? 1 : 0.001);
  return at >= EARLIEST_MS && at < LATEST_MS ? { type: 'instant', at, unit } : undefined;
}

function readUrlEncoded(text: string): Unfolded | undefined {
  if (!/%[0-9A-Fa-f]{2}/.test(text)) return undefined;
  try {
    const decoded = decodeURIComponent(text);
    return decoded === text ? undefined : { type: 'url-encoded', text: decoded };
  } catch {
    return undefined;
  }
}

function readBase64(text: string): Unfolded | undefined {
  // Words, paths and hexadecimal hashes are base64 by their letters alone.
  if (text.length < LEAST_BASE64_CHARS || !/^[A-Za-z0-9+/_-]+={0,2}$/.test(text) || /^[0-9a-f]+$/i.test(text)) {
    return undefined;
  }
  const bytes = bytesFromBase64(text.replace(/=+$/, '').padEnd(Math.ceil(text.replace(/=+$/, '').length / 4) * 4, '='));
  if (bytes === undefined) return undefined;
  try {
    const decoded = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    // Only what reads as text was meant as text.
    return /^[\t\n\r\x20-\x7e\u00a1-\u024f]+$/.test(decoded) ? { type: 'base64', text: decoded } : undefined;
  } catch {
    return undefined;
  }
}
