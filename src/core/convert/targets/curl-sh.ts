import type { Draft } from '../draft';
import { DEFAULT_OPTIONS, type RenderOptions } from '../options';
import { type Plan, type PlanBody, planOf } from '../plan';
import type { Target } from '../target';
import { CURL_ABILITIES, type CurlPayload, curlCommand, curlPayload, partsFit } from '../writing/curl';
import { posixComments, posixScript, posixWord, printfBody, typeableText } from '../writing/shell';

/** One argument may be 128 KiB on Linux; longer payloads, and bytes that a word cannot hold, come through a pipe. */
const WORD_LIMIT_BYTES = 100_000;

/** curl for a POSIX shell. Every captured value stands in single quotes; nothing of it is ever read as an option. */
export const curlSh = {
  id: 'curl-sh',
  label: 'curl, POSIX shell',
  language: 'Shell',
  extension: 'sh',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const { plan, command } = shellCommand(draft, options);
    return { text: posixScript(plan, command, posixComments(plan, '-H')), warnings: plan.warnings };
  },
} satisfies Target;

/**
 * A draft as one command, its variables not yet declared.
 * @param flags further options, which stand before the address
 */
export function shellCommand(
  draft: Draft,
  options: RenderOptions,
  flags = '',
): { readonly plan: Plan; readonly command: string } {
  // Parts whose bytes no word can hold go as the one body that the form comes to.
  const plan = planOf(draft, options, { ...CURL_ABILITIES, parts: partsFit(draft, lineText) });
  const payload = curlPayload(plan, wordText, piped);
  const command = curlCommand(plan, draft, payload, {
    program: `${payload.before.join('')}curl${flags === '' ? '' : ` ${flags.trim()}`}`,
    word: posixWord,
    continued: '\\',
    printsStatus: `--silent --output /dev/null --write-out '%{http_code}\\n'`,
  });
  return { plan, command };
}

/** How curl runs within a script where its answer may fail: silent but for errors. */
export const QUIET_FLAGS = '--silent --show-error ';
/** And where failing ends the script. */
export const SCRIPT_FLAGS = `--fail-with-body ${QUIET_FLAGS}`;

/** Text of bytes that one word can hold. */
const wordText = (bytes: Uint8Array): string | undefined =>
  bytes.length > WORD_LIMIT_BYTES ? undefined : typeableText(bytes);

/** The same for a part of a form, which stands on one line. */
function lineText(bytes: Uint8Array): string | undefined {
  const text = wordText(bytes);
  return text?.includes('\n') ? undefined : text;
}

const piped = (bytes: Uint8Array, body: PlanBody): CurlPayload => ({
  before: [`${printfBody(body)} | `],
  options: [{ name: '--data-binary', value: [{ text: '@-' }] }],
  byteLength: bytes.length,
});
