import { textFromBytes } from '../../content';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, planOf } from '../plan';
import type { Target } from '../target';
import { fillIn, plainText, type Value } from '../value';
import { commentLine } from '../writing/comment';
import { CURL_ABILITIES, type CurlPayload, curlCommand, curlPayload, partsFit } from '../writing/curl';
import { rendered } from '../writing/finish';

/** A config file for curl, to be run by `curl -K FILE`: no shell reads it, so none can misread it. */
export const curlConfig = {
  id: 'curl-config',
  label: 'curl, config file (-K)',
  language: 'curl',
  extension: 'conf',
  render: (source, options = DEFAULT_OPTIONS) => {
    const draft = fillIn(source);
    const plan = planOf(
      draft,
      { ...options, secretsFromEnv: false },
      { ...CURL_ABILITIES, parts: partsFit(draft, wordText) },
    );
    if (options.secretsFromEnv)
      plan.warnings.push('A config file reads nothing from the environment: it contains its secrets.');
    const payload = curlPayload(plan, wordText, () => besideFile(plan));
    const options_ = curlCommand(plan, draft, payload, {
      program: '--url',
      word,
      continued: '',
      printsStatus: `--silent${BREAK}--output "/dev/null"${BREAK}--write-out "%{http_code}\\n"`,
    });
    return rendered(plan, [
      ...options_.split(BREAK),
      ...plan.leftOut.map(({ name, value, reason }) =>
        commentLine('#', `-H ${word([{ text: `${name}: ${value}` }])} left out: ${reason}`),
      ),
    ]);
  },
} satisfies Target;

/** What stands between the words of a command; in a config file each has a line of its own. */
const BREAK = ' \n  ';

const ESCAPES: Readonly<Record<string, string>> = {
  '\\': '\\\\',
  '"': '\\"',
  '\n': '\\n',
  '\r': '\\r',
  '\t': '\\t',
  '\v': '\\v',
};

/** A value in double quotes (curl manual, --config). */
const word = (value: Value): string =>
  `"${plainText(value).replace(/[\\"\n\r\t\v]/g, (character) => ESCAPES[character] ?? '')}"`;

/** A line of a config file has at most 100 kB in most versions, and escapes double some characters. */
const LINE_LIMIT_BYTES = 40_000;

/** Text of bytes that a line of a config file can hold. */
function wordText(bytes: Uint8Array): string | undefined {
  const text = bytes.length > LINE_LIMIT_BYTES ? undefined : textFromBytes(bytes);
  return text?.includes('\0') ? undefined : text;
}

function besideFile(plan: Plan): CurlPayload {
  plan.warnings.push('The payload is too long or no text for a config file: put it as payload.bin next to the file.');
  return { before: [], options: [{ name: '--data-binary', value: [{ text: '@payload.bin' }] }], byteLength: 0 };
}
