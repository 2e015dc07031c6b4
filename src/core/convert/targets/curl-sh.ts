import type { PayloadParam } from '../../model';
import type { Draft } from '../draft';
import { quotePosix, quotePrintfFormat } from '../quoting/posix';
import { type Rendering, type Target, unsupported } from '../target';

/** One argument may be 128 KiB on Linux; longer payloads, and bytes that a word cannot hold, come through a pipe. */
const WORD_LIMIT_BYTES = 100_000;
/** curl asks "Expect: 100-continue" before sending more than this over HTTP/1.1. */
const EXPECT_FROM_BYTES = 1024 * 1024;
/** A header name or method (RFC 9110 5.6.2, token). Anything else would not be a header, and might be an option. */
const TOKEN = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;

/** curl for a POSIX shell. Every captured value stands in single quotes; nothing of it is ever read as an option. */
export const curlSh = {
  id: 'curl-sh',
  label: 'curl, POSIX shell',
  language: 'shell',
  extension: 'sh',
  render: renderCurlSh,
} satisfies Target;

function renderCurlSh(draft: Draft): Rendering {
  const warnings = [...draft.notes];
  const payload = renderPayload(draft, warnings);
  const lines = [
    `${payload.before}curl ${quotePosix(renderAddress(draft.url, warnings))}`,
    ...renderMethod(draft, payload, warnings),
    ...renderAddressOptions(draft.url),
    ...renderHeaders(draft, payload, warnings),
    ...(draft.wantsCompressed ? ['--compressed'] : []),
    ...payload.options,
  ];
  return { text: `${lines.join(' \\\n  ')}\n`, warnings };
}

/** curl refuses spaces and control characters in an address; as URLs have them percent-encoded, so are they here. */
function renderAddress(url: string, warnings: string[]): string {
  const isSocket = /^wss?:/i.test(url);
  if (isSocket) warnings.push(unsupported('A socket', 'only its opening request is sent, over http'));
  const address = isSocket ? url.replace(/^ws/i, 'http') : url;
  if (!/^https?:\/\//i.test(address)) {
    warnings.push(unsupported(`The address scheme of ${address.slice(0, 40)}`, 'curl may refuse it'));
  }
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters to encode.
  const encoded = address.replace(/[\u0000-\u0020\u007f"<>\\^`{|}]/g, encodeURIComponentFully);
  // A leading dash would make an option of it.
  return encoded.startsWith('-') ? `./${encoded}` : encoded;
}

const encodeURIComponentFully = (character: string): string => {
  // Browsers send these as they are; only what curl refuses is encoded.
  if (/["<>\\^`{|}]/.test(character)) return character;
  return `%${character.charCodeAt(0).toString(16).padStart(2, '0').toUpperCase()}`;
};

function renderAddressOptions(url: string): string[] {
  const options: string[] = [];
  if (/[[\]{}]/.test(url)) options.push('--globoff');
  if (/\/\.\.?(?:\/|$|\?)/.test(url.replace(/^[a-z]+:\/\//i, ''))) options.push('--path-as-is');
  return options;
}

interface PayloadPlan {
  /** A command whose output is piped into curl, or nothing. */
  readonly before: string;
  readonly options: readonly string[];
  readonly byteLength: number;
  /** curl sets the type of the payload itself: with --form it knows the boundary. */
  readonly setsType: boolean;
}

const NO_PAYLOAD: PayloadPlan = { before: '', options: [], byteLength: 0, setsType: false };

function renderPayload(draft: Draft, warnings: string[]): PayloadPlan {
  const { payload } = draft;
  switch (payload.type) {
    case 'none':
    case 'unrecorded':
      // Browsers send "Content-Length: 0" with these methods, and many servers insist on it.
      return /^(POST|PUT|PATCH)$/.test(draft.method) ? { ...NO_PAYLOAD, options: ["--data-raw ''"] } : NO_PAYLOAD;
    case 'parts':
      return { ...NO_PAYLOAD, options: payload.parts.map((part) => renderPart(part, warnings)), setsType: true };
    case 'bytes':
      return renderBytes(payload.bytes);
    default:
      return payload satisfies never;
  }
}

function renderBytes(bytes: Uint8Array): PayloadPlan {
  const byteLength = bytes.length;
  const text = findTypeableText(bytes);
  if (text !== undefined && byteLength <= WORD_LIMIT_BYTES) {
    return { before: '', options: [`--data-raw ${quotePosix(text)}`], byteLength, setsType: false };
  }
  const before = `printf ${quotePrintfFormat(bytes)} | `;
  return { before, options: ['--data-binary @-'], byteLength, setsType: false };
}

/** The bytes as text that survives being pasted into a terminal: UTF-8, no control characters but line feeds. */
function findTypeableText(bytes: Uint8Array): string | undefined {
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    return undefined;
  }
  // biome-ignore lint/suspicious/noControlCharactersInRegex: terminals act on these instead of passing them on.
  return /[\u0000-\u0009\u000b-\u001f\u007f-\u009f]/.test(text) ? undefined : text;
}

function renderPart(part: PayloadParam, warnings: string[]): string {
  if (part.fileName === undefined) return `--form-string ${quotePosix(`${part.name}=${part.value}`)}`;
  warnings.push(`The file "${part.fileName}" is not in the capture: put it beside the command.`);
  const quoted = part.fileName.replace(/["\\]/g, '\\$&');
  const type = part.contentType === undefined ? '' : `;type=${part.contentType}`;
  return `--form ${quotePosix(`${part.name}=@"${quoted}"${type}`)}`;
}

function renderMethod(draft: Draft, payload: PayloadPlan, warnings: string[]): string[] {
  const implied = payload.options.length > 0 ? 'POST' : 'GET';
  if (draft.method === implied) return [];
  if (draft.method === 'HEAD' && payload.options.length === 0) return ['--head'];
  if (!TOKEN.test(draft.method)) {
    warnings.push(unsupported(`The method ${JSON.stringify(draft.method)}`, `${implied} is sent`));
    return [];
  }
  return [`-X ${quotePosix(draft.method)}`];
}

/** Headers that curl adds by itself and that have to be taken away where the draft has none of them. */
const ADDED_BY_CURL = ['User-Agent', 'Accept'] as const;

function renderHeaders(draft: Draft, payload: PayloadPlan, warnings: string[]): string[] {
  const kept = draft.headers.filter((header) => {
    if (!header.kept) return false;
    if (payload.setsType && header.name.toLowerCase() === 'content-type') return false;
    // biome-ignore lint/suspicious/noControlCharactersInRegex: a line break or NUL ends a header.
    if (TOKEN.test(header.name) && !/[\u0000\r\n]/.test(header.value)) return true;
    warnings.push(unsupported(`The header ${JSON.stringify(header.name)}`, 'it is left out'));
    return false;
  });
  const names = new Set(kept.map((header) => header.name.toLowerCase()));
  const removed = ADDED_BY_CURL.filter((name) => !names.has(name.toLowerCase())).map((name) => `${name}:`);
  const hasData = payload.options.length > 0 && !payload.setsType;
  if (hasData && !names.has('content-type')) removed.push('Content-Type:');
  if (payload.byteLength > EXPECT_FROM_BYTES) removed.push('Expect:');
  // "Name;" is curl's way to send a header without a value; "Name:" would take it away.
  const lines = kept.map(({ name, value }) => (value.trim() === '' ? `${name};` : `${name}: ${value}`));
  return [...lines, ...removed].map((line) => `-H ${quotePosix(line)}`);
}
