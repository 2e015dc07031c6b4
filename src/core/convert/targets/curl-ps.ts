import { base64Of, bytesFromText } from '../../content';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, type PlanBody, planOf } from '../plan';
import { quotePowerShell } from '../quoting/powershell';
import { quoteArgument } from '../quoting/windows';
import type { Target } from '../target';
import { envOf, identOf, type Value } from '../value';
import { commentLine } from '../writing/comment';
import { CURL_ABILITIES, type CurlPayload, curlCommand, curlPayload, partsFit } from '../writing/curl';
import { asFunction, POWERSHELL_FUNCTION, rendered } from '../writing/finish';
import { typeableText } from '../writing/shell';

/** A Windows command line takes 32,767 characters; a longer payload goes through a file. */
const WORD_LIMIT_CHARS = 20_000;
const COMMAND_LIMIT_CHARS = 32_000;
/** A word that PowerShell and the C runtime read as it stands, with no quotes. */
const PLAIN = /^[A-Za-z0-9_][A-Za-z0-9_./:+=-]*$/;

/** curl for PowerShell: curl.exe by name, since curl alone is another command there. */
export const curlPs = {
  id: 'curl-ps',
  label: 'curl, PowerShell',
  language: 'PowerShell',
  extension: 'ps1',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, { ...CURL_ABILITIES, parts: partsFit(draft, wordText), controls: false });
    const payload = curlPayload(plan, wordText, (bytes, body) => throughFile(plan, bytes, body));
    const command = curlCommand(plan, draft, payload, {
      program: 'curl.exe',
      word,
      continued: '`',
      printsStatus: `--silent --output NUL --write-out '"%{http_code}"'`,
    });
    const lines = [
      // Newer shells would put quotes of their own around arguments; the words here bring theirs.
      `$PSNativeCommandArgumentPassing = 'Legacy'`,
      ...plan.variables.map(
        (variable) =>
          `$${identOf(variable)} = ${variable.isSecret ? `$env:${envOf(variable)}` : quotePowerShell(variable.value)}`,
      ),
      ...payload.before,
      command,
      ...(payload.after ?? []),
      ...plan.leftOut.map(({ name, value, reason }) =>
        commentLine('#', `-H ${quotePowerShell(`${name}: ${value}`)} left out: ${reason}`),
      ),
    ];
    if (command.length > COMMAND_LIMIT_CHARS)
      plan.warnings.push('The command is longer than the 32,767 characters that Windows takes.');
    return rendered(plan, asFunction(plan, lines, POWERSHELL_FUNCTION));
  },
} satisfies Target;

/** A word with the quotes in it that the C runtime reads: so no shell, old or new, adds any. */
function word(value: Value): string {
  if (value.every((piece) => 'text' in piece)) {
    const text = value.map((piece) => ('text' in piece ? piece.text : '')).join('');
    return PLAIN.test(text) ? text : quotePowerShell(quoteArgument(text));
  }
  const pieces = value.map((piece) =>
    'text' in piece
      ? quotePowerShell(quoteArgument(piece.text).slice(1, -1))
      : `($${identOf(piece.variable)} -replace '(\\\\*)"', '$1$1\\"')`,
  );
  return `('"' + ${pieces.join(' + ')} + '"')`;
}

function wordText(bytes: Uint8Array): string | undefined {
  const text = typeableText(bytes);
  return text === undefined || text.length > WORD_LIMIT_CHARS ? undefined : text;
}

/** What a command line cannot hold is written to a temporary file. */
function throughFile(plan: Plan, bytes: Uint8Array, body: PlanBody): CurlPayload {
  plan.warnings.push('The payload goes through a temporary file.');
  return {
    before: [
      '$payloadFile = [IO.Path]::GetTempFileName()',
      `[IO.File]::WriteAllBytes($payloadFile, ${bytesOf(bytes, body)})`,
    ],
    after: ['Remove-Item $payloadFile'],
    options: [{ name: '--data-binary', value: [{ text: '@' }, { variable: PAYLOAD_FILE }] }],
    byteLength: bytes.length,
  };
}

/** Bytes as an expression: of text with variables these stand where they do, between pieces that survive being pasted. */
function bytesOf(bytes: Uint8Array, body: PlanBody): string {
  const decoded = (own: Uint8Array): string => `[Convert]::FromBase64String('${base64Of(own)}')`;
  if (body.type !== 'text' || body.value.every((piece) => 'text' in piece)) return decoded(bytes);
  const pieces = body.value.map((piece) =>
    'text' in piece
      ? `[Text.Encoding]::UTF8.GetString(${decoded(bytesFromText(piece.text))})`
      : `$${identOf(piece.variable)}`,
  );
  return `[Text.Encoding]::UTF8.GetBytes(-join (${pieces.join(', ')}))`;
}

/** The name of the temporary file, as the running command knows it. */
const PAYLOAD_FILE = { name: 'payloadFile', value: '', isSecret: false };
