import { byHttpx } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { planOf } from '../plan';
import { quotePython as quote } from '../quoting/python';
import type { Target } from '../target';
import { rendered } from '../writing/finish';
import { pyCall, pyFile, pyRequest, pyValue } from '../writing/python';

/** httpx. */
export const pythonHttpx = {
  id: 'python-httpx',
  label: 'Python, httpx',
  language: 'Python',
  extension: 'py',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byHttpx,
      repeats: true,
      unicode: true,
      givesUp: { afterS: 5, on: 'wait' },
      payloadWithGet: true,
      parts: true,
      // httpx gives a file without a type one of its own.
      takesParts: (parts) =>
        parts.every(({ fileName, contentType }) => fileName === undefined || contentType !== undefined),
      method: (method) =>
        method === method.toUpperCase()
          ? undefined
          : { method: method.toUpperCase(), why: 'httpx writes it in capitals' },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate } = plan.options;
    const isBeyondAscii = plan.headers.some(({ value }) =>
      value.some((piece) => 'text' in piece && /[^\0-\x7f]/.test(piece.text)),
    );
    const request = pyRequest(plan, 'content', isBeyondAscii ? pyBytesHeader : undefined);
    const args = [
      quote(plan.method),
      ...request.args,
      ...(timeLimitS === undefined ? [] : [`timeout=${timeLimitS}`]),
      ...(redirects === undefined ? [] : [`follow_redirects=${redirects === 'follow' ? 'True' : 'False'}`]),
      ...(ignoresCertificate && proxy === undefined ? ['verify=False'] : []),
    ];
    // Its argument for a proxy is called proxies before 0.26 and proxy since; a transport takes one in every version.
    const transport = [
      ...(proxy === undefined ? [] : [`proxy=httpx.Proxy(${quote(proxy)})`]),
      ...(ignoresCertificate ? ['verify=False'] : []),
    ].join(', ');
    const client = proxy === undefined ? 'httpx' : `httpx.Client(transport=httpx.HTTPTransport(${transport}))`;
    return rendered(plan, pyFile(plan, request, pyCall(`${client}.request`, args), 'httpx'));
  },
} satisfies Target;

/** httpx tries one encoding for all headers: where one of them is not ASCII, each is given as bytes. */
const pyBytesHeader: NonNullable<Parameters<typeof pyRequest>[2]> = (value) =>
  `${value.length > 1 ? `(${pyValue(value)})` : pyValue(value)}.encode()`;
