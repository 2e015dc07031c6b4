/** A piece of the file, as bytes of one JSON value. `atByte` counts from the start of the file. */
export type HarSpan =
  | {
      readonly type: 'field';
      readonly scope: Scope;
      readonly key: string;
      readonly bytes: Uint8Array;
      readonly atByte: number;
    }
  | { readonly type: 'list'; readonly scope: Scope; readonly key: ListKey }
  | { readonly type: 'log' }
  | { readonly type: 'page'; readonly bytes: Uint8Array; readonly atByte: number }
  /** Track was lost in this part of the file, before any list of entries. */
  | { readonly type: 'lost'; readonly where: string }
  | {
      readonly type: 'entry';
      readonly bytes: Uint8Array;
      readonly atByte: number;
      /** Track was lost before it: it may be something else that only begins like an entry. */
      readonly afterGap: boolean;
    };

/** Hears of each span; false says that its bytes are no entry, page or field. */
export type SpanListener = (span: HarSpan) => boolean;

/** "root": a member of the outermost object; "log": a member of its `log`. */
export type Scope = 'root' | 'log';
/** How a file ended. `gaps` counts the places where entries were damaged and left out. */
export interface SplitEnd {
  readonly whole: boolean;
  readonly atByte: number;
  readonly rootShape: RootShape | undefined;
  readonly gaps: number;
  readonly tail: SplitTail | undefined;
}

/** What stands behind the outermost value, from a byte of the file on: its beginning, or all of it. */
export interface SplitTail {
  readonly atByte: number;
  readonly bytes: Uint8Array;
  readonly isAll: boolean;
}

export type ListKey = 'pages' | 'entries';
/** Shape of the outermost value: an object as HAR 1.2 has it, a bare array of entries, or entries in a row. */
export type RootShape = 'object' | 'array' | 'rows';
