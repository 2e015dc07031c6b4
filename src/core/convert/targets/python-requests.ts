import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type Plan, planOf } from '../plan';
import { quotePython as quote } from '../quoting/python';
import type { Target } from '../target';
import type { Value } from '../value';
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

const OWN_CALLS = new Set(['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS']);

export const REQUESTS_ABILITIES: Abilities = {
  address: 'parsed',
  repeats: false,
  unicode: true,
  payloadWithGet: true,
  parts: true,
  method: (method) =>
    method === method.toUpperCase()
      ? undefined
      : { method: method.toUpperCase(), why: 'requests writes it in capitals' },
};

/** requests. */
export const pythonRequests = {
  id: 'python-requests',
  label: 'Python, requests',
  language: 'Python',
  extension: 'py',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, REQUESTS_ABILITIES);
    const { settings, call, imports } = requestParts(plan);
    const lines = [
      ...pyVariables(plan.variables),
      ...settings.flatMap((setting) => setting.lines),
      '',
      call,
      ...pyAnswer(plan),
    ];
    return {
      text: `${[...pyImports(plan, imports, ['requests']), ...pyFunction(plan, lines)].join('\n')}\n`,
      warnings: plan.warnings,
    };
  },
} satisfies Target;

/** Lines that stand before a request, and the variables that they use. */
interface Setting {
  readonly lines: readonly string[];
  readonly uses: readonly string[];
}

/** What sends a request and leaves its answer in `response`: the settings that its call names, and the call. */
export function requestParts(plan: Plan): {
  readonly settings: readonly Setting[];
  readonly call: string;
  readonly imports: readonly string[];
} {
  const { timeLimitS, redirects, proxy, ignoresCertificate } = plan.options;
  const headers = pyHeaders(plan);
  const body = pyBody(plan);
  const files = plan.body.type === 'parts' ? pyFiles(plan.body.parts) : undefined;
  const isOwn = OWN_CALLS.has(plan.method);
  const args = [
    ...(isOwn ? [] : [quote(plan.method)]),
    'url',
    ...(headers.length > 0 ? ['headers=headers'] : []),
    ...(body === undefined ? [] : [`data=${body.expression}`]),
    ...(files === undefined ? [] : ['files=files']),
    ...(timeLimitS === undefined ? [] : [`timeout=${timeLimitS}`]),
    ...(redirects === undefined ? [] : [`allow_redirects=${redirects === 'follow' ? 'True' : 'False'}`]),
    ...(proxy === undefined ? [] : [`proxies={'http': ${quote(proxy)}, 'https': ${quote(proxy)}}`]),
    ...(ignoresCertificate ? ['verify=False'] : []),
  ];
  return {
    settings: [
      { lines: [`url = ${pyValue(plan.address)}`], uses: namesIn(plan.address) },
      { lines: headers, uses: plan.headers.flatMap(({ value }) => namesIn(value)) },
      { lines: [...(body?.lines ?? []), ...(files?.lines ?? [])], uses: [] },
    ],
    call: `response = ${pyCall(`requests.${isOwn ? plan.method.toLowerCase() : 'request'}`, args)}`,
    imports: [...(body?.imports ?? []), ...(files?.imports ?? [])],
  };
}

const namesIn = (value: Value): string[] =>
  value.flatMap((piece) => ('variable' in piece ? [piece.variable.name] : []));
