import { byUnknownParser } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { quotePowerShell as quote } from '../quoting/powershell';
import type { Target } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { asFunction, POWERSHELL_FUNCTION, rendered, writeBody } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';

const value = (one: Value): string => writeValue(one, quote, (variable) => `$${identOf(variable)}`);
const OWN_METHODS = /^(GET|POST|PUT|PATCH|DELETE|HEAD|OPTIONS|TRACE|MERGE)$/;

/** PowerShell's Invoke-WebRequest. */
export const powershell = {
  id: 'powershell',
  label: 'PowerShell, Invoke-WebRequest',
  language: 'PowerShell',
  extension: 'ps1',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUnknownParser,
      repeats: false,
      unicode: false,
      payloadWithGet: true,
      parts: false,
      refuses: (name) => (/^(host|connection|content-length)$/.test(name) ? 'PowerShell computes it' : undefined),
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const type = plan.headers.find(({ name }) => name.toLowerCase() === 'content-type');
    const agent = plan.headers.find(({ name }) => name.toLowerCase() === 'user-agent');
    const headers = plan.headers.filter((header) => header !== type && header !== agent);
    const body = bodyOf(plan);
    const parameters = [
      `Uri = ${value(plan.address)}`,
      OWN_METHODS.test(plan.method) ? `Method = ${quote(plan.method)}` : `CustomMethod = ${quote(plan.method)}`,
      ...(headers.length + plan.leftOut.length === 0 || options.headers === 'calls'
        ? headers.length === 0
          ? []
          : ['Headers = $headers']
        : [
            'Headers = @{',
            ...headers.map((header) => `    ${quote(header.name)} = ${value(header.value)}`),
            ...leftOutComments(plan, '#', quote, '    '),
            '}',
          ]),
      ...(agent === undefined ? [] : [`UserAgent = ${value(agent.value)}`]),
      ...(type === undefined ? [] : [`ContentType = ${value(type.value)}`]),
      ...(body === undefined ? [] : [`Body = ${body}`]),
      ...(timeLimitS === undefined ? [] : [`TimeoutSec = ${timeLimitS}`]),
      ...(redirects === 'stop' ? ['MaximumRedirection = 0'] : []),
      ...(proxy === undefined ? [] : [`Proxy = ${quote(proxy)}`]),
      ...(ignoresCertificate ? ['SkipCertificateCheck = $true'] : []),
      ...(isBinary(plan) ? [`OutFile = 'response'`] : []),
      'SkipHeaderValidation = $true',
      'UseBasicParsing = $true',
    ];
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `$${identOf(variable)} = ${variable.isSecret ? `$env:${envOf(variable)}` : quote(variable.value)}`,
      ),
      ...(options.headers === 'calls' && headers.length > 0
        ? ['$headers = @{}', ...headers.map((header) => `$headers[${quote(header.name)}] = ${value(header.value)}`)]
        : []),
      '$request = @{',
      ...parameters.map((line) => `    ${line}`),
      '}',
      '$response = Invoke-WebRequest @request',
      ...(prints === 'status'
        ? ['$response.StatusCode']
        : isBinary(plan)
          ? []
          : [plan.answer === 'json' ? '$response.Content | ConvertFrom-Json' : '$response.Content']),
    ];
    return rendered(plan, asFunction(plan, lines, POWERSHELL_FUNCTION));
  },
} satisfies Target;

const bodyOf = (plan: Plan<FlatBody>): string | undefined =>
  writeBody(plan, {
    text: (text) => `[Text.Encoding]::UTF8.GetBytes(${value(text)})`,
    bytes: (base64) => `[Convert]::FromBase64String('${base64}')`,
    file: (path) => `[IO.File]::ReadAllBytes(${quote(path)})`,
  });
