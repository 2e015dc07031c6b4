import { DEFAULT_OPTIONS } from '../options';
import { planOf } from '../plan';
import { quotePython as quote } from '../quoting/python';
import type { Target } from '../target';
import {
  pyAnswer,
  pyBody,
  pyCall,
  pyFiles,
  pyFunction,
  pyHeaders,
  pyImports,
  pyValue,
  pyVariables,
} from '../writing/python';

/** httpx. */
export const pythonHttpx = {
  id: 'python-httpx',
  label: 'Python, httpx',
  language: 'Python',
  extension: 'py',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: 'parsed',
      repeats: true,
      unicode: true,
      payloadWithGet: true,
      parts: true,
      method: (method) =>
        method === method.toUpperCase()
          ? undefined
          : { method: method.toUpperCase(), why: 'httpx writes it in capitals' },
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate } = options;
    const headers = pyHeaders(
      plan,
      plan.headers.some(({ value }) => value.some((piece) => 'text' in piece && /[^\0-\x7f]/.test(piece.text)))
        ? pyBytesHeader
        : undefined,
    );
    const body = pyBody(plan);
    const files = plan.body.type === 'parts' ? pyFiles(plan.body.parts) : undefined;
    const args = [
      quote(plan.method),
      'url',
      ...(headers.length > 0 ? ['headers=headers'] : []),
      ...(body === undefined ? [] : [`content=${body.expression}`]),
      ...(files === undefined ? [] : ['files=files']),
      ...(timeLimitS === undefined ? [] : [`timeout=${timeLimitS}`]),
      ...(redirects === undefined ? [] : [`follow_redirects=${redirects === 'follow' ? 'True' : 'False'}`]),
      ...(proxy === undefined ? [] : [`proxies=${quote(proxy)}`]),
      ...(ignoresCertificate ? ['verify=False'] : []),
    ];
    const lines = [
      ...pyVariables(plan.variables),
      `url = ${pyValue(plan.address)}`,
      ...headers,
      ...(body?.lines ?? []),
      ...(files?.lines ?? []),
      '',
      `response = ${pyCall('httpx.request', args)}`,
      ...pyAnswer(plan),
    ];
    const imports = [...(body?.imports ?? []), ...(files?.imports ?? [])];
    return {
      text: `${[...pyImports(plan, imports, ['httpx']), ...pyFunction(plan, lines)].join('\n')}\n`,
      warnings: plan.warnings,
    };
  },
} satisfies Target;

/** httpx tries one encoding for all headers: where one of them is not ASCII, each is given as bytes. */
const pyBytesHeader: NonNullable<Parameters<typeof pyHeaders>[1]> = (value) =>
  `${value.length > 1 ? `(${pyValue(value)})` : pyValue(value)}.encode()`;
