import { quoteBy, utf16Escape } from './escape';

/** A Kotlin string literal: $ would begin a template (Kotlin specification, 1.2.5). */
export const quoteKotlin = quoteBy({ open: '"', close: '"', slashed: /[\\"$]/g, coded: utf16Escape });
