import { base64Of } from '../../content';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, planOf } from '../plan';
import { chunksOf } from '../quoting/chunks';
import { quoteCmd } from '../quoting/cmd';
import type { Target } from '../target';
import { envOf, plainText, type Value } from '../value';
import { commentLine } from '../writing/comment';
import { CURL_ABILITIES, type CurlPayload, curlCommand, curlPayload, partsFit } from '../writing/curl';
import { rendered } from '../writing/finish';
import { typeableText } from '../writing/shell';

/** cmd takes 8,191 characters in all; a longer payload goes through a file. */
const WORD_LIMIT_CHARS = 3000;
const BASE64_LINE_CHARS = 4000;

/** curl for the prompt of Windows' cmd. */
export const curlCmd = {
  id: 'curl-cmd',
  label: 'curl, Windows cmd',
  language: 'Batch',
  extension: 'cmd',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, { ...CURL_ABILITIES, parts: partsFit(draft, wordText), controls: false });
    const payload = curlPayload(plan, wordText, (bytes) => throughFile(plan, bytes));
    const command = curlCommand(plan, draft, payload, {
      program: 'curl',
      word,
      continued: '^',
      printsStatus: '--silent --output NUL --write-out ^%{http_code}',
    });
    const lines = [
      ...plan.variables.map((variable) =>
        variable.isSecret
          ? `if not defined ${envOf(variable)} set /p ${envOf(variable)}=${envOf(variable)}: `
          : `set ^"${envOf(variable)}=${escaped(variable.value)}^"`,
      ),
      ...payload.before,
      command,
      ...(payload.after ?? []),
      ...plan.leftOut.map(({ name }) => commentLine('rem', `left out: ${name.replace(/[^A-Za-z0-9-]/g, '_')}`)),
    ];
    if (command.includes('%')) plan.warnings.push('This is for the prompt; in a .cmd file write ^%% for each ^%.');
    if (plan.variables.length > 0)
      plan.warnings.push(
        'cmd expands variables before it parses the line: their values must not contain a double quote.',
      );
    if (options.asFunction) plan.warnings.push('cmd has no functions: only the command is written.');
    if (command.length > 8000) plan.warnings.push('The command is longer than the 8,191 characters that cmd takes.');
    return rendered(plan, lines);
  },
} satisfies Target;

const escaped = (text: string): string => text.replace(/["^&|<>()%!]/g, '^$&');

/** A value as a word; a variable's place is open to cmd, which fills it in. */
function word(value: Value): string {
  if (value.every((piece) => 'text' in piece)) return quoteCmd(plainText(value));
  const marked = value.map((piece) => ('text' in piece ? piece.text : `\u0001${envOf(piece.variable)}\u0001`)).join('');
  // biome-ignore lint/suspicious/noControlCharactersInRegex: a mark that no value holds.
  return quoteCmd(marked).replace(/\u0001([A-Z0-9_]+)\u0001/g, '%$1%');
}

/** A payload that a word of cmd can hold: text on one line, not too long. */
function wordText(bytes: Uint8Array): string | undefined {
  const text = typeableText(bytes);
  return text === undefined || text.includes('\n') || text.length > WORD_LIMIT_CHARS ? undefined : text;
}

/** What no line of cmd can hold is written to files beside the command: base64 first, then what it stands for. */
function throughFile(plan: Plan, bytes: Uint8Array): CurlPayload {
  plan.warnings.push('The payload goes through the files payload.b64 and payload.bin, which are deleted again.');
  const variables =
    plan.body.type === 'text' ? plan.body.value.flatMap((piece) => ('variable' in piece ? piece.variable : [])) : [];
  if (variables.length > 0) {
    const secret = variables.some(({ isSecret }) => isSecret) ? ' The code contains the secrets among them.' : '';
    plan.warnings.push(
      `Variables in the payload are filled in with their values here: cmd cannot put them into a file.${secret}`,
    );
  }
  const [first = '', ...rest] = chunksOf(base64Of(bytes), BASE64_LINE_CHARS);
  return {
    before: [
      `>payload.b64 echo ${first}`,
      ...rest.map((line) => `>>payload.b64 echo ${line}`),
      'certutil -f -decode payload.b64 payload.bin >nul',
    ],
    after: ['del payload.b64 payload.bin'],
    options: [{ name: '--data-binary', value: [{ text: '@payload.bin' }] }],
    byteLength: bytes.length,
  };
}
