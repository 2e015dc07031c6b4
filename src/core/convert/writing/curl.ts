import { sentAsIs } from '../addresses';
import type { Draft, DraftPart } from '../draft';
import { type Abilities, bodyBytes, type Plan, type PlanBody, sendsEmptyBody } from '../plan';
import { joinTexts, plainText, type Value } from '../value';

// What curl is asked to do, whatever shell it is asked in (curl manual).

export const CURL_ABILITIES: Abilities = {
  isCommand: true,
  address: sentAsIs,
  repeats: true,
  unicode: true,
  controls: true,
  payloadWithGet: true,
  parts: true,
};

/** curl asks "Expect: 100-continue" before sending more than this over HTTP/1.1. */
const EXPECT_FROM_BYTES = 1024 * 1024;
/** Headers that curl adds by itself and that have to be removed where the draft has none of them. */
const ADDED_BY_CURL = ['User-Agent', 'Accept'] as const;

/** An option and its value, if it has one. */
interface CurlOption {
  readonly name: string;
  readonly value?: Value;
}

const text = (one: string): Value => [{ text: one }];

/**
 * The options of a request but its payload.
 * @param sends what curl is given as payload: data, a form, or nothing
 */
function curlOptions(plan: Plan, draft: Draft, sends: 'data' | 'form' | 'nothing', bodyBytes: number): CurlOption[] {
  const implied = sends === 'nothing' ? 'GET' : 'POST';
  const address = plainText(plan.address);
  const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
  return [
    ...(plan.method === implied
      ? []
      : plan.method === 'HEAD' && sends === 'nothing'
        ? [{ name: '--head' }]
        : [{ name: '-X', value: text(plan.method) }]),
    ...(/[[\]{}]/.test(address) ? [{ name: '--globoff' }] : []),
    ...(/\/(\.|%2e){1,2}(?:\/|$|\?)/i.test(address.replace(/^[a-z]+:\/\//i, '')) ? [{ name: '--path-as-is' }] : []),
    ...headerOptions(plan, sends, bodyBytes),
    ...(draft.wantsCompressed ? [{ name: '--compressed' }] : []),
    ...(timeLimitS === undefined ? [] : [{ name: '--max-time', value: text(String(timeLimitS)) }]),
    ...(redirects === 'follow' ? [{ name: '--location' }] : []),
    ...(proxy === undefined ? [] : [{ name: '--proxy', value: text(proxy) }]),
    ...(ignoresCertificate ? [{ name: '--insecure' }] : []),
    ...(prints === 'file' ? [{ name: '--fail' }, { name: '--output', value: text('response') }] : []),
  ];
}

function headerOptions(plan: Plan, sends: 'data' | 'form' | 'nothing', bodyBytes: number): CurlOption[] {
  const names = new Set(plan.headers.map(({ name }) => name.toLowerCase()));
  const removed = ADDED_BY_CURL.filter((name) => !names.has(name.toLowerCase())).map((name) => `${name}:`);
  if (sends === 'data' && !names.has('content-type')) removed.push('Content-Type:');
  if (sends === 'data' && bodyBytes > EXPECT_FROM_BYTES) removed.push('Expect:');
  return [
    // "Name;" is curl's way to send a header without a value; "Name:" would take it away.
    ...plan.headers.map(({ name, value }) => ({
      name: '-H',
      value: value.length === 0 ? text(`${name};`) : joinTexts([{ text: `${name}: ` }, ...value]),
    })),
    ...removed.map((line) => ({ name: '-H', value: text(line) })),
  ];
}

/** The options of a form's part; undefined where its content cannot stand in a word. */
function partOption(
  { name, fileName, contentType, bytes }: DraftPart,
  content: string | undefined,
): CurlOption | undefined {
  if (fileName === undefined && contentType === undefined) {
    return content === undefined ? undefined : { name: '--form-string', value: text(`${name}=${content}`) };
  }
  const more = `${contentType === undefined ? '' : `;type=${contentType}`}`;
  if (bytes === undefined) return { name: '--form', value: text(`${name}=@${inQuotes(fileName ?? name)}${more}`) };
  if (content === undefined) return undefined;
  const file = fileName === undefined ? '' : `;filename=${inQuotes(fileName)}`;
  return { name: '--form', value: text(`${name}=${inQuotes(content)}${file}${more}`) };
}

const inQuotes = (one: string): string => `"${one.replace(/["\\]/g, '\\$&')}"`;

/** The address as an argument: a leading dash would make an option of it. */
const curlAddress = ({ address }: Plan): Value => {
  const [first] = address;
  return first !== undefined && 'text' in first && first.text.startsWith('-') ? [{ text: './' }, ...address] : address;
};

/** A payload as curl takes it: what has to run before, or stand before the command, and the options that send it. */
export interface CurlPayload {
  readonly before: readonly string[];
  /** What takes away again what came before. */
  readonly after?: readonly string[];
  readonly options: readonly CurlOption[];
  readonly byteLength: number;
}

/**
 * The payload of a plan as options.
 * @param wordText the text of bytes that a word of the shell can hold; undefined for others
 * @param elsewhere how bytes are sent that no word can hold
 */
export function curlPayload(
  { body, method }: Plan,
  wordText: (bytes: Uint8Array) => string | undefined,
  elsewhere: (bytes: Uint8Array, body: PlanBody) => CurlPayload,
): CurlPayload {
  switch (body.type) {
    case 'none': {
      const options = sendsEmptyBody(method) ? [{ name: '--data-raw', value: [] }] : [];
      return { before: [], options, byteLength: 0 };
    }
    case 'file':
      return { before: [], options: [{ name: '--data-binary', value: text(`@${body.path}`) }], byteLength: 0 };
    case 'parts': {
      const contentOf = (bytes: Uint8Array | undefined) => (bytes === undefined ? undefined : wordText(bytes));
      const options = body.parts.flatMap((part) => partOption(part, contentOf(part.bytes)) ?? []);
      return { before: [], options, byteLength: 0 };
    }
    case 'bytes':
    case 'text': {
      const bytes = bodyBytes(body) ?? new Uint8Array();
      const word = wordText(bytes);
      if (word === undefined) return elsewhere(bytes, body);
      const value = body.type === 'text' ? body.value : text(word);
      return { before: [], options: [{ name: '--data-raw', value }], byteLength: bytes.length };
    }
    default:
      return body satisfies never;
  }
}

/** Whether all parts of a form can stand in words; else it goes as the one body that it comes to. */
export const partsFit = ({ payload }: Draft, wordText: (bytes: Uint8Array) => string | undefined): boolean =>
  payload.type !== 'parts' ||
  (payload.parts.length > 0 &&
    payload.parts.every(
      // A name ends at its first equals sign.
      ({ name, bytes }) => !name.includes('=') && (bytes === undefined || wordText(bytes) !== undefined),
    ));

/** What curl is asked for as a whole: what it sends tells the method and the headers that it would add. */
const sendsOf = ({ options }: CurlPayload, { body }: Plan): 'data' | 'form' | 'nothing' =>
  options.length === 0 ? 'nothing' : body.type === 'parts' ? 'form' : 'data';

/** How a shell writes a command of curl's. */
export interface CurlShell {
  /** The program, with what stands before it and the options that come first. */
  readonly program: string;
  readonly word: (value: Value) => string;
  /** What ends a line that goes on. */
  readonly continued: string;
  /** Options that print the status alone. */
  readonly printsStatus: string;
}

/** The command that sends a plan. */
export function curlCommand(
  plan: Plan,
  draft: Draft,
  payload: CurlPayload,
  { program, word, continued, printsStatus }: CurlShell,
): string {
  const options = [...curlOptions(plan, draft, sendsOf(payload, plan), payload.byteLength), ...payload.options];
  const words = [
    `${program} ${word(curlAddress(plan))}`,
    ...options.map(({ name, value }) => (value === undefined ? name : `${name} ${word(value)}`)),
    ...(plan.options.prints === 'status' ? [printsStatus] : []),
  ];
  return words.join(` ${continued}\n  `);
}
