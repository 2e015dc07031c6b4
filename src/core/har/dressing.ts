/** As many bytes of a file's beginning, or of what follows a capture, are looked at to tell what it is. */
export const HEAD_BYTES = 4096;

/** What a file seems to be that is no capture, told by how it begins. */
export type Seeming =
  | 'web-page'
  | 'xml'
  | 'zip'
  | 'gzip'
  | 'xz'
  | 'bzip2'
  | 'zstd'
  | '7z'
  | 'rar'
  | 'tar'
  | 'pdf'
  | 'picture'
  | 'database'
  | 'yaml'
  | 'json-text';

/** How a capture stands in its file, in match order below. Bytes count from the start of what was looked at. */
export type Dressing =
  /** HAR's own object, a bare list of entries, or nothing known: reading begins behind white space. */
  | { readonly type: 'plain'; readonly skipBytes: number }
  /** In a list of its own, as a member of another object, or as an argument or value of a script. */
  | { readonly type: 'wrapped'; readonly skipBytes: number; readonly before: string }
  /** Entries one after the other, a line each, without a list around them. */
  | { readonly type: 'rows'; readonly skipBytes: number }
  /** HAR's members as elements. */
  | { readonly type: 'xml'; readonly skipBytes: number }
  | { readonly type: 'refused'; readonly seems: Seeming };

const MAGIC: readonly (readonly [Seeming, string])[] = [
  ['zip', 'PK\x03\x04'],
  ['zip', 'PK\x05\x06'],
  ['gzip', '\x1f\x8b'],
  ['xz', '\xfd7zXZ\0'],
  ['bzip2', 'BZh'],
  ['zstd', '\x28\xb5\x2f\xfd'],
  ['7z', "7z\xbc\xaf'\x1c"],
  ['rar', 'Rar!\x1a\x07'],
  ['pdf', '%PDF-'],
  ['picture', '\x89PNG'],
  ['picture', '\xff\xd8\xff'],
  ['picture', 'GIF8'],
  ['database', 'SQLite format 3\0'],
];
/** Where tar has its mark (POSIX ustar). */
const TAR_MARK_AT = 257;

const SPACE_AND_MARK = /^(?:\xef\xbb\xbf)?[\s,]*/;
/** `name = `, `var name = `, `name(`: the beginning of a script whose value or argument is the capture. */
const SCRIPT_START = /^(?:(?:var|let|const)\s+)?[A-Za-z_$][\w$.]*\s*[=(]\s*(?=[[{])/;
const IN_LIST = /^\[\s*(?=\{\s*"log"\s*:)/;
/** A member other than `log` whose value is an object that begins with `log`. */
const AS_MEMBER = /^\{\s*"(?!log")(?:[^"\\]|\\.){0,200}"\s*:\s*(?=\{)/;
const BEGINS_AS_HAR = /^\{\s*"log"\s*:\s*\{\s*"(?:version|creator|browser|pages|entries|comment|_\w{0,60})"\s*:/;
const BEGINS_WITHOUT_LOG = /^\{\s*"(?:version|creator|entries|pages)"\s*:/;
const DEEPEST_MEMBER = 4;
const ROW_START =
  /^\{\s*"(?:startedDateTime|pageref|time|request|response|timings|connection|serverIPAddress|_\w{1,60})"/;

/**
 * Tells how a capture stands in its file by the file's first bytes: what is packed or plainly another kind of file, XML of
 * HAR's member names, a script or another object around it, a list of captures, entries without a list.
 * @param head up to `HEAD_BYTES` of it, in UTF-8
 */
export function readDressing(head: Uint8Array): Dressing {
  // One character a byte: places in the text are places in the file.
  const text = String.fromCharCode(...head.subarray(0, HEAD_BYTES));
  const packed = MAGIC.find(([, magic]) => text.startsWith(magic));
  if (packed !== undefined) return { type: 'refused', seems: packed[0] };
  if (text.startsWith('ustar', TAR_MARK_AT)) return { type: 'refused', seems: 'tar' };
  const skipBytes = SPACE_AND_MARK.exec(text)?.[0].length ?? 0;
  const start = text.slice(skipBytes);
  if (start.startsWith('<')) return readMarkup(start, skipBytes);
  if (/^(?:---|%YAML|log:\s)/.test(start)) return { type: 'refused', seems: 'yaml' };
  if (/^"\s*\{\s*\\"/.test(start)) return { type: 'refused', seems: 'json-text' };
  const before = wrapperOf(start);
  if (before !== undefined) return { type: 'wrapped', skipBytes: skipBytes + before.length, before: jsonOf(before) };
  return isRow(start) ? { type: 'rows', skipBytes } : { type: 'plain', skipBytes };
}

function readMarkup(start: string, skipBytes: number): Dressing {
  const root = /^(?:\s*(?:<\?[^>]*\?>|<!--[\s\S]*?-->|<!DOCTYPE(?:[^>[]|\[[^\]]*\])*>))*\s*<([A-Za-z_][\w:.-]*)/i
    .exec(start)?.[1]
    ?.toLowerCase();
  if (root === 'log' || root === 'har') return { type: 'xml', skipBytes };
  if (/<!doctype\s+html|<(?:html|head|body|script|title)[\s>]/i.test(start))
    return { type: 'refused', seems: 'web-page' };
  return { type: 'refused', seems: 'xml' };
}

/** What stands before a capture that is wrapped; undefined where it begins as itself. */
function wrapperOf(start: string): string | undefined {
  const script = SCRIPT_START.exec(start)?.[0] ?? IN_LIST.exec(start)?.[0];
  if (script !== undefined) return script;
  let before = '';
  for (let depth = 0; depth < DEEPEST_MEMBER; depth++) {
    const member = AS_MEMBER.exec(start.slice(before.length))?.[0];
    if (member === undefined) return undefined;
    before += member;
    if (BEGINS_AS_HAR.test(start.slice(before.length))) return before;
  }
  return undefined;
}

/** What of a wrapper belongs to JSON: none of a script's. */
const jsonOf = (before: string): string => (/^[[{]/.test(before) ? before : '');

/** True where an entry begins that nothing encloses. */
function isRow(start: string): boolean {
  if (!ROW_START.test(start)) return false;
  const part = /"(request|response|log|entries)"\s*:/.exec(start)?.[1];
  return part === 'request' || part === 'response';
}

/** What may close a wrapper. */
const CLOSERS = /^[\s\]});]*$/;

/** How many bytes stand before another capture that begins here; undefined where none does. */
export function findCapture(bytes: Uint8Array): number | undefined {
  const text = String.fromCharCode(...bytes.subarray(0, HEAD_BYTES));
  const at = /^[\s,\]]*/.exec(text)?.[0].length ?? 0;
  const next = text.slice(at);
  return BEGINS_AS_HAR.test(next) || IN_LIST.test(next) || BEGINS_WITHOUT_LOG.test(next) ? at : undefined;
}

export const beginsCapture = (bytes: Uint8Array): boolean => findCapture(bytes) !== undefined;

/** True where bytes do no more than close what a capture stood in. */
export const closesWrapper = (bytes: Uint8Array, before: string): boolean =>
  CLOSERS.test(new TextDecoder().decode(bytes)) || afterOf(before, bytes) !== undefined;

/** What closes a wrapper, so that saving gives back the whole; undefined where that is not JSON. */
export function afterOf(before: string, bytes: Uint8Array): string | undefined {
  if (before === '') return undefined;
  const after = new TextDecoder().decode(bytes).trim();
  try {
    JSON.parse(`${before}{}${after}`);
    return after;
  } catch {
    return undefined;
  }
}
