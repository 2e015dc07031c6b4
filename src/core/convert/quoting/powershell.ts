/**
 * A PowerShell string in single quotes, in which nothing is read but the quote, doubled. PowerShell takes typographic
 * single quotes for quotes as well (about_Quoting_Rules).
 */
export const quotePowerShell = (text: string): string =>
  `'${text.toWellFormed().replace(/['\u2018-\u201b]/g, '$&$&')}'`;
