import { byWget } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { bodyBytes, planOf } from '../plan';
import { quotePosix } from '../quoting/posix';
import type { Target } from '../target';
import type { Value } from '../value';
import { posixComments, posixScript, posixWord, printfBody, typeableText } from '../writing/shell';

const WORD_LIMIT_BYTES = 100_000;

/** wget for a POSIX shell. */
export const wget = {
  id: 'wget',
  label: 'wget',
  language: 'Shell',
  extension: 'sh',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      isCommand: true,
      address: byWget,
      carriesCredentials: true,
      repeats: false,
      unicode: true,
      controls: true,
      givesUp: { afterS: 900, on: 'wait' },
      payloadWithGet: true,
      parts: false,
      addsType: 'application/x-www-form-urlencoded',
      method: (method) =>
        method === method.toUpperCase()
          ? undefined
          : { method: method.toUpperCase(), why: 'wget writes it in capitals' },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = options;
    if (redirects === 'stop' && prints !== 'status')
      plan.warnings.push('Of a redirect that it stops at wget gives nothing: print the status to see where it leads.');
    const bytes = bodyBytes(plan.body);
    const text = bytes === undefined ? undefined : typeableText(bytes);
    const isWord = bytes !== undefined && text !== undefined && bytes.length > 0 && bytes.length <= WORD_LIMIT_BYTES;
    // wget measures a payload's file before it sends it, so a pipe will not do.
    const file =
      bytes === undefined || bytes.length === 0 || isWord
        ? []
        : ['payload=$(mktemp)', `${printfBody(plan.body)} > "$payload"`];
    const option = (name: string, value: Value): string => `--${name}=${posixWord(value)}`;
    const body =
      plan.body.type === 'file'
        ? [option('body-file', [{ text: plan.body.path }])]
        : isWord
          ? [option('body-data', plan.body.type === 'text' ? plan.body.value : [{ text }])]
          : file.length > 0
            ? ['--body-file="$payload"']
            : bytes !== undefined
              ? ["--body-data=''"]
              : [];
    const words = [
      `wget --quiet ${prints === 'file' ? '--output-document=response' : prints === 'status' ? '--server-response --output-document=/dev/null' : '--output-document=-'}`,
      ...(plan.method === 'GET' && body.length === 0 ? [] : [option('method', [{ text: plan.method }])]),
      ...plan.headers.map(({ name, value }) => option('header', [{ text: `${name}: ` }, ...value])),
      ...body,
      ...(draft.wantsCompressed ? ['--compression=auto'] : []),
      // It would send the request twenty times, a POST as well, where no answer comes.
      '--tries=1',
      ...(timeLimitS === undefined ? [] : [`--timeout=${timeLimitS}`]),
      ...(redirects === 'stop' ? ['--max-redirect=0'] : []),
      ...(proxy === undefined
        ? []
        : [`-e use_proxy=on -e ${quotePosix(`http_proxy=${proxy}`)} -e ${quotePosix(`https_proxy=${proxy}`)}`]),
      ...(ignoresCertificate ? ['--no-check-certificate'] : []),
      '--content-on-error',
      posixWord(plan.address),
    ];
    const command = [...file, words.join(' \\\n  '), ...(file.length > 0 ? ['rm -f "$payload"'] : [])].join('\n');
    return { text: posixScript(plan, command, posixComments(plan, '--header')), warnings: plan.warnings };
  },
} satisfies Target;
