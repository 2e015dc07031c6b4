import { type PayloadContent, readPayloadContent } from '../content';
import { type Exchange, findHeader, type NameValue } from '../model';
import { defaultFor, type HeaderRole, headerRole, type Preset } from './header-policy';

/** A header of a draft: kept or left out, with the role and the reason that decided it. */
export interface DraftHeader extends NameValue {
  readonly role: HeaderRole;
  readonly kept: boolean;
  readonly reason: string;
}

export type DraftPayload = { readonly type: 'none' } | PayloadContent;

/** An editable copy of a request: what to send, and what was left out of it. */
export interface Draft {
  readonly method: string;
  /** Absolute address without fragment, as it is to be sent. */
  readonly url: string;
  readonly headers: readonly DraftHeader[];
  readonly payload: DraftPayload;
  /** The request asked for a compressed answer, so a target may turn on its own decoding. */
  readonly wantsCompressed: boolean;
  /** What the draft could not take over from the capture. */
  readonly notes: readonly string[];
}

/** The draft of a captured request under a preset: "faithful" keeps the browser's colour, "lean" leaves it out. */
export function draftFromExchange(exchange: Exchange, preset: Preset): Draft {
  const { request } = exchange;
  const notes: string[] = [];
  const url = request.url.split('#', 1)[0] ?? '';
  const payload: DraftPayload =
    request.payload === undefined ? { type: 'none' } : readPayloadContent(request.payload, request.bodyBytes);
  const lacksPayload = payload.type === 'unrecorded' || (payload.type === 'none' && (request.bodyBytes ?? 0) > 0);
  if (lacksPayload) {
    notes.push(`The request sent ${request.bodyBytes ?? 'some'} bytes of payload that the capture does not hold.`);
  }
  const headers = joinCookies(request.headers).map((header): DraftHeader => {
    const role = headerRole(header, url);
    return { ...header, role, ...defaultFor(role, preset) };
  });
  return {
    method: request.method,
    url,
    headers,
    payload,
    wantsCompressed: findHeader(request.headers, 'accept-encoding') !== undefined,
    notes,
  };
}

/** HTTP/2 may split Cookie into crumbs; outside of it they are one header, joined by "; " (RFC 9113 8.2.3). */
function joinCookies(headers: readonly NameValue[]): NameValue[] {
  const cookies = headers.filter((header) => header.name.toLowerCase() === 'cookie');
  if (cookies.length < 2) return [...headers];
  const [first] = cookies;
  const value = cookies.map((cookie) => cookie.value).join('; ');
  return headers.flatMap((header) => {
    if (header.name.toLowerCase() !== 'cookie') return [header];
    return header === first ? [{ name: header.name, value }] : [];
  });
}
