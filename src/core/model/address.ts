/** The query of an address with its question mark (RFC 3986 3.4), empty where it has none; a fragment's "?" begins none. */
export const queryOf = (url: string): string => /^[^?#]*(\?[^#]*)/.exec(url)?.[1] ?? '';
