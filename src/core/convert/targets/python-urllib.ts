import { sentAsIs } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { planOf, sendsEmptyBody } from '../plan';
import { quotePython as quote } from '../quoting/python';
import type { Target } from '../target';
import { rendered } from '../writing/finish';
import { pyBody, pyCall, pyFunction, pyHeaders, pyImports, pyValue, pyVariables } from '../writing/python';

/** urllib, which comes with Python. */
export const pythonUrllib = {
  id: 'python-urllib',
  label: 'Python, urllib',
  language: 'Python',
  extension: 'py',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: sentAsIs,
      carriesCredentials: true,
      repeats: false,
      unicode: true,
      payloadWithGet: true,
      parts: false,
      addsType: 'application/x-www-form-urlencoded',
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    // urllib sends Content-Length: 0 with no method by itself, and with an empty payload a type that nobody asked for.
    const sendsNothing = plan.body.type === 'none' && sendsEmptyBody(plan.method);
    const length = { name: 'Content-Length', value: [{ text: '0' }] };
    const headers = pyHeaders(sendsNothing ? { ...plan, headers: [...plan.headers, length] } : plan);
    const body = pyBody(plan);
    const handlers = [
      ...(redirects === 'stop' ? ['NoRedirect()'] : []),
      ...(proxy === undefined
        ? []
        : [`urllib.request.ProxyHandler({'http': ${quote(proxy)}, 'https': ${quote(proxy)}})`]),
      ...(ignoresCertificate ? ['urllib.request.HTTPSHandler(context=ssl._create_unverified_context())'] : []),
    ];
    const open = handlers.length === 0 ? 'urllib.request.urlopen' : 'opener.open';
    const isFile = prints === 'file' || plan.answer === 'binary';
    const answer = isFile
      ? ["    with open('response', 'wb') as file:", '        file.write(response.read())']
      : [
          plan.answer === 'json'
            ? '    print(json.load(response))'
            : "    print(response.read().decode(response.headers.get_content_charset('utf-8')))",
        ];
    const args = [
      'url',
      ...(body === undefined ? [] : [`data=${body.expression}`]),
      ...(headers.length > 0 ? ['headers=headers'] : []),
      `method=${quote(plan.method)}`,
    ];
    const sending = `with ${open}(request${timeLimitS === undefined ? '' : `, timeout=${timeLimitS}`}) as response:`;
    const lines = [
      ...pyVariables(plan.variables),
      `url = ${pyValue(plan.address)}`,
      ...headers,
      ...(body?.lines ?? []),
      '',
      `request = ${pyCall('urllib.request.Request', args)}`,
      ...(handlers.length === 0 ? [] : [`opener = urllib.request.build_opener(${handlers.join(', ')})`]),
      ...(prints === 'status' ? statusOf(sending) : [sending, ...answer]),
    ];
    const imports = [
      ...(body?.imports ?? []),
      ...(plan.answer === 'json' && prints === 'body' ? ['json'] : []),
      ...(ignoresCertificate ? ['ssl'] : []),
      ...(prints === 'status' ? ['urllib.error'] : []),
      'urllib.request',
    ];
    // A class of its own stands two lines apart from what is around it (PEP 8, Blank Lines).
    const own = redirects === 'stop' ? ['', ...NO_REDIRECT, '', ...(options.asFunction ? [] : [''])] : [];
    return rendered(plan, [...pyImports(plan, imports, []), ...own, ...pyFunction(plan, lines)]);
  },
} satisfies Target;

/** urllib raises what is no success: a status that is asked for is given, whatever it is. */
const statusOf = (sending: string): string[] => [
  'try:',
  `    ${sending}`,
  '        print(response.status, response.reason)',
  'except urllib.error.HTTPError as error:',
  '    print(error.code, error.reason)',
];

/** A redirect that is not followed would be raised, too. */
const NO_REDIRECT = [
  'class NoRedirect(urllib.request.HTTPErrorProcessor):',
  '    def http_response(self, request, response):',
  '        return response if response.status < 400 else super().http_response(request, response)',
  '',
  '    https_response = http_response',
];
