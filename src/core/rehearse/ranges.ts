import { type Exchange, findHeader, findResponse, type NameValue } from '../model';

/** A range of bytes. */
export interface Range {
  /** First and last byte, both part of it. */
  readonly from: number;
  readonly to: number;
}

/** One range of bytes of a whole (RFC 9110 14.1.2); "none" where no byte of it is there, undefined where it is none or several. */
export function rangeOf(text: string | undefined, length: number): Range | 'none' | undefined {
  const [, first = '', last = ''] = /^\s*bytes\s*=\s*(\d*)\s*-\s*(\d*)\s*$/i.exec(text ?? '') ?? [];
  if (first === '' && last === '') return undefined;
  if (first === '') {
    const count = Number(last);
    return count === 0 ? 'none' : { from: Math.max(0, length - count), to: length - 1 };
  }
  if (last !== '' && Number(last) < Number(first)) return undefined;
  if (Number(first) >= length) return 'none';
  return { from: Number(first), to: last === '' ? length - 1 : Math.min(Number(last), length - 1) };
}

/** The part that a response says it is, and the length of the whole (RFC 9110 14.4); undefined where it says none, or not of how much. */
export function capturedPart(
  headers: readonly NameValue[],
): { readonly from: number; readonly to: number; readonly length: number } | undefined {
  const [, from, to, length] = /^\s*bytes\s+(\d+)-(\d+)\/(\d+)/i.exec(findHeader(headers, 'content-range') ?? '') ?? [];
  return from === undefined ? undefined : { from: Number(from), to: Number(to), length: Number(length) };
}

/**
 * How a captured response has the range that is asked for: by the very same request; all of it; its beginning; or something
 * else.
 */
export function rangeFit(asked: readonly NameValue[], exchange: Exchange): 'same' | 'all' | 'beginning' | 'other' {
  const own = findHeader(exchange.request.headers, 'range') ?? '';
  const range = findHeader(asked, 'range') ?? '';
  if (own === range) return 'same';
  const response = findResponse(exchange);
  const length = exchange.bodyBytes ?? 0;
  const whole = response?.status === 200 && length > 0 ? { from: 0, to: length - 1, length } : undefined;
  const part = response?.status === 206 ? capturedPart(response.headers) : whole;
  if (part === undefined) return 'other';
  if (range === '') return part.from === 0 && part.to === part.length - 1 ? 'all' : 'other';
  const wanted = rangeOf(range, part.length);
  if (typeof wanted !== 'object' || wanted.from < part.from || wanted.from > part.to) return 'other';
  return wanted.to <= part.to ? 'all' : 'beginning';
}
