import { byRequests } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { bodyBytes, type Plan, planOf } from '../plan';
import { quotePosix } from '../quoting/posix';
import { type Target, unsupported } from '../target';
import { fixedText, plainText, type Value } from '../value';
import { posixComments, posixScript, posixWord, printfBody, typeableText } from '../writing/shell';

const WORD_LIMIT_BYTES = 100_000;

/** The http command for a POSIX shell. */
export const httpie = {
  id: 'httpie',
  label: 'http command',
  language: 'Shell',
  extension: 'sh',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      isCommand: true,
      address: byRequests,
      repeats: true,
      unicode: true,
      payloadWithGet: true,
      parts: false,
      method: (method) =>
        /^[A-Z]+$/.test(method)
          ? undefined
          : /^[A-Za-z]+$/.test(method)
            ? { method: method.toUpperCase(), why: 'the http command writes it in capitals' }
            : { method: 'POST', why: 'the http command takes methods of letters alone, and POST is sent' },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const bytes = bodyBytes(plan.body);
    const text = bytes === undefined ? undefined : typeableText(bytes);
    const isWord = bytes !== undefined && text !== undefined && bytes.length <= WORD_LIMIT_BYTES && text !== '--';
    const before = bytes !== undefined && !isWord ? `${printfBody(plan.body)} | ` : '';
    const names = new Set(plan.headers.map(({ name }) => name.toLowerCase()));
    const removed = ['Accept', ...(bytes === undefined ? [] : ['Content-Type'])].filter(
      (name) => !names.has(name.toLowerCase()),
    );
    const words = [
      `${before}http ${before === '' && plan.body.type !== 'file' ? '--ignore-stdin ' : ''}${prints === 'status' ? '--print=h' : prints === 'file' ? '--download --output response' : '--print=b'} --check-status`,
      // What ~/.netrc has for a host would go out in place of Authorization.
      ...(names.has('authorization') ? ['--ignore-netrc'] : []),
      ...(redirects === 'follow' ? ['--follow'] : []),
      ...(timeLimitS === undefined ? [] : [`--timeout=${timeLimitS}`]),
      ...(proxy === undefined ? [] : [`--proxy=${quotePosix(`all:${proxy}`)}`]),
      ...(ignoresCertificate ? ['--verify=no'] : []),
      ...(isWord ? [`--raw=${posixWord(plan.body.type === 'text' ? plan.body.value : [{ text }])}`] : []),
      // Behind two dashes nothing is an option, not even a header that begins with one.
      `${plan.headers.some(({ name }) => name.startsWith('-')) ? '-- ' : ''}${plan.method} ${posixWord(plan.address)}`,
      ...plan.headers.flatMap((header) => headerWord(plan, header.name, header.value)),
      ...removed.map((name) => `${name}:`),
      ...(plan.body.type === 'file' ? [`@${quotePosix(plan.body.path)}`] : []),
    ];
    return { text: posixScript(plan, words.join(' \\\n  '), posixComments(plan, '')), warnings: plan.warnings };
  },
} satisfies Target;

/** A header's argument. What stands before the first separator is its name; in the value a backslash keeps its place. */
function headerWord(plan: Plan, name: string, value: Value): string[] {
  if (plainText(value) === '') return [quotePosix(`${name};`)];
  // It takes what Python calls a blank from both ends.
  if (plainText(value).trim() !== plainText(value)) {
    plan.warnings.push(unsupported(`A blank beyond ASCII at an end of the header ${name}`, 'the blank is left out'));
  }
  if (/\\[:=@;]/.test(plainText(value))) {
    plan.warnings.push(unsupported(`A backslash before a separator in the header ${name}`, 'the header is left out'));
    return [];
  }
  const fixed = fixedText(value);
  // A value that begins with a separator would make another kind of argument of it.
  const escaped = (text: string): string => text.replace(/^[=@]/, '\\$&');
  if (fixed !== undefined) return [quotePosix(`${name}:${escaped(fixed)}`)];
  return [posixWord([{ text: `${name}:` }, ...value])];
}
