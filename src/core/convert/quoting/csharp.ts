import { quoteBy, utf16Escape } from './escape';

/** A C# regular string literal (C# specification, 6.4.5.6). */
export const quoteCSharp = quoteBy({ open: '"', close: '"', slashed: /[\\"]/g, coded: utf16Escape });
