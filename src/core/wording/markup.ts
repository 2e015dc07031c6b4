/** A text as it may stand in XML and HTML, in elements and in attributes between double quotes. */
export const escapeXml = (text: string): string =>
  text
    // XML 1.0 2.2: most control characters and lone surrogates may not stand in it at all.
    .toWellFormed()
    .replace(/[^\t\n\r\u0020-\uFFFD\u{10000}-\u{10FFFF}]/gu, '\uFFFD')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');

/** What stands for a character in HTML (WHATWG HTML 13.5): by its code, or one of the five names that XML has too. */
export const ENTITY = /&(?:#\d{1,6}|#x[0-9a-f]{1,5}|amp|lt|gt|quot|apos);/gi;

const NAMED: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };

/** The character that an entity stands for; what is no character stands as it is. */
export function readEntity(written: string): string {
  const name = written.slice(1, -1).toLowerCase();
  if (!name.startsWith('#')) return NAMED[name] ?? written;
  const code = name[1] === 'x' ? Number.parseInt(name.slice(2), 16) : Number(name.slice(1));
  return code > 0x10ffff ? written : String.fromCodePoint(code);
}

/** A text of HTML with its characters for their entities. */
export const unescapeMarkup = (text: string): string => (text.includes('&') ? text.replace(ENTITY, readEntity) : text);
