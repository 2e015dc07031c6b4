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
