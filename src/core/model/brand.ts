declare const brand: unique symbol;

/** A value that only its own maker can produce, so that two ids of different things cannot be swapped. */
type Brand<T, Name extends string> = T & { readonly [brand]: Name };

/** Place of an exchange in `log.entries`, counted from 0: its number on every screen and on the command line. */
export type ExchangeIndex = Brand<number, 'ExchangeIndex'>;
/** Id of a page as the capture gives it (`pageref`), or one made for a navigation that the recorder did not name. */
export type PageId = Brand<string, 'PageId'>;
/** Milliseconds since 1970-01-01T00:00Z, with fractions where the recorder gave them. */
export type EpochMs = Brand<number, 'EpochMs'>;

export const exchangeIndex = (place: number): ExchangeIndex => place as ExchangeIndex;
export const pageId = (id: string): PageId => id as PageId;
export const epochMs = (milliseconds: number): EpochMs => milliseconds as EpochMs;
