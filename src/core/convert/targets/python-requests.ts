import { byRequests } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type Plan, planOf } from '../plan';
import { quotePython as quote } from '../quoting/python';
import type { Target } from '../target';
import { rendered } from '../writing/finish';
import { type PyRequest, pyCall, pyFile, pyRequest } from '../writing/python';

const OWN_CALLS = new Set(['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS']);

export const REQUESTS_ABILITIES: Abilities = {
  address: byRequests,
  repeats: false,
  unicode: true,
  payloadWithGet: true,
  parts: true,
  readsNetrc: true,
};

/** requests. */
export const pythonRequests = {
  id: 'python-requests',
  label: 'Python, requests',
  language: 'Python',
  extension: 'py',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, REQUESTS_ABILITIES);
    const { call, ...request } = requestParts(plan);
    return rendered(plan, pyFile(plan, request, call, 'requests'));
  },
} satisfies Target;

/** What sends a request: the settings that its call names, and the call. */
export function requestParts(plan: Plan): PyRequest & { readonly call: string } {
  const { timeLimitS, redirects, proxy, ignoresCertificate } = plan.options;
  const request = pyRequest(plan, 'data');
  const isOwn = OWN_CALLS.has(plan.method);
  const settings = [
    ...(timeLimitS === undefined ? [] : [`timeout=${timeLimitS}`]),
    ...(redirects === undefined ? [] : [`allow_redirects=${redirects === 'follow' ? 'True' : 'False'}`]),
    ...(proxy === undefined ? [] : [`proxies={'http': ${quote(proxy)}, 'https': ${quote(proxy)}}`]),
    ...(ignoresCertificate ? ['verify=False'] : []),
  ];
  if (plan.method !== plan.method.toUpperCase()) {
    // requests writes a method in capitals where it is given; assigned, it stays as it is.
    const prepared = [
      `request = ${pyCall('requests.Request', [quote(plan.method), ...request.args])}.prepare()`,
      `request.method = ${quote(plan.method)}`,
    ];
    return {
      ...request,
      settings: [...request.settings, { lines: prepared, uses: [] }],
      call: pyCall('requests.Session().send', ['request', ...settings]),
    };
  }
  const args = [...(isOwn ? [] : [quote(plan.method)]), ...request.args, ...settings];
  return { ...request, call: pyCall(`requests.${isOwn ? plan.method.toLowerCase() : 'request'}`, args) };
}
