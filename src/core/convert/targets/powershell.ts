import { base64Of, bytesFromText } from '../../content';
import { byUnknownParser } from '../addresses';
import type { Variable } from '../draft';
import { DEFAULT_OPTIONS } from '../options';
import { type Abilities, type FlatBody, type Plan, planOf } from '../plan';
import { quotePowerShell as quote } from '../quoting/powershell';
import { type Target, unsupported } from '../target';
import { envOf, fixedText, identOf, type Value, writeValue } from '../value';
import { asFunction, POWERSHELL_FUNCTION, rendered, writeBody } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';
import { warnOfProxyCredentials } from '../writing/proxy';

/** A value as an expression. */
export const psValue = (one: Value): string => writeValue(one, quote, (variable) => `$${identOf(variable)}`);
const OWN_METHODS = /^(GET|POST|PUT|PATCH|DELETE|HEAD|OPTIONS|TRACE|MERGE)$/;

/** What Invoke-WebRequest can and cannot do. */
export const POWERSHELL_ABILITIES = {
  address: byUnknownParser,
  repeats: false,
  unicode: false,
  payloadWithGet: true,
  parts: false,
  refuses: (name: string) => (/^(host|connection|content-length)$/.test(name) ? 'PowerShell computes it' : undefined),
} as const satisfies Abilities;

export const psVariables = (variables: readonly Variable[]): string[] =>
  variables.map(
    (variable) => `$${identOf(variable)} = ${variable.isSecret ? `$env:${envOf(variable)}` : quote(variable.value)}`,
  );

/** The statements that leave a request in `$request`, for Invoke-WebRequest to be called with. */
export function psRequest(plan: Plan<FlatBody>, more: readonly string[] = []): string[] {
  const { timeLimitS, redirects, proxy, ignoresCertificate, headers: style } = plan.options;
  warnOfProxyCredentials(plan, 'give ProxyCredential a PSCredential');
  const type = plan.headers.find(({ name }) => name.toLowerCase() === 'content-type');
  const agent = plan.headers.find(({ name }) => name.toLowerCase() === 'user-agent');
  const headers = plan.headers.filter((header) => header !== type && header !== agent);
  const body = bodyOf(plan);
  if (timeLimitS !== undefined && !Number.isInteger(timeLimitS))
    plan.warnings.push(unsupported('A time limit in parts of a second', `it is ${Math.ceil(timeLimitS)} s`));
  const parameters = [
    `Uri = ${psValue(plan.address)}`,
    OWN_METHODS.test(plan.method) ? `Method = ${quote(plan.method)}` : `CustomMethod = ${quote(plan.method)}`,
    ...(headers.length + plan.leftOut.length === 0 || style === 'calls'
      ? headers.length === 0
        ? []
        : ['Headers = $headers']
      : [
          'Headers = @{',
          ...headers.map((header) => `    ${quote(header.name)} = ${psValue(header.value)}`),
          ...leftOutComments(plan, '#', quote, '    '),
          '}',
        ]),
    ...(agent === undefined ? [] : [`UserAgent = ${psValue(agent.value)}`]),
    ...(type === undefined ? [] : [`ContentType = ${psValue(type.value)}`]),
    ...(body === undefined ? [] : [`Body = ${body}`]),
    ...(timeLimitS === undefined ? [] : [`TimeoutSec = ${Math.ceil(timeLimitS)}`]),
    ...(redirects === 'stop' ? ['MaximumRedirection = 0'] : []),
    ...(proxy === undefined ? [] : [`Proxy = ${quote(proxy)}`]),
    ...(ignoresCertificate ? ['SkipCertificateCheck = $true'] : []),
    ...more,
    'SkipHeaderValidation = $true',
    'UseBasicParsing = $true',
  ];
  return [
    ...(style === 'calls' && headers.length > 0
      ? ['$headers = @{}', ...headers.map((header) => `$headers[${quote(header.name)}] = ${psValue(header.value)}`)]
      : []),
    '$request = @{',
    ...parameters.map((line) => `    ${line}`),
    '}',
  ];
}

/** PowerShell's Invoke-WebRequest. */
export const powershell = {
  id: 'powershell',
  label: 'PowerShell, Invoke-WebRequest',
  language: 'PowerShell',
  extension: 'ps1',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, POWERSHELL_ABILITIES);
    const isFile = isBinary(plan);
    const stops = plan.options.redirects === 'stop' && !isFile;
    const lines = [
      ...psVariables(plan.variables),
      ...psRequest(plan, [
        ...(isFile ? [`OutFile = 'response'`] : []),
        // It throws what is no success: a redirect that it stops at, a status that is asked for.
        ...(plan.options.prints === 'status' || stops ? ['SkipHttpErrorCheck = $true'] : []),
      ]),
      '$response = Invoke-WebRequest @request',
      ...(plan.options.prints !== 'status' && stops
        ? ['if ($response.StatusCode -ge 400) { throw "$($response.StatusCode): $($response.Content)" }']
        : []),
      ...(plan.options.prints === 'status'
        ? ['$response.StatusCode']
        : isFile
          ? []
          : [plan.answer === 'json' ? '$response.Content | ConvertFrom-Json' : '$response.Content']),
    ];
    return rendered(plan, asFunction(plan, lines, POWERSHELL_FUNCTION));
  },
} satisfies Target;

// biome-ignore lint/suspicious/noControlCharactersInRegex: a file of code is no place for these.
const CONTROLS = /[\0-\x08\x0b\x0c\x0e-\x1f]/;

function bodyOf(plan: Plan<FlatBody>): string | undefined {
  const bytes = (base64: string): string => `[Convert]::FromBase64String('${base64}')`;
  return writeBody(plan, {
    text: (text) => {
      const fixed = fixedText(text);
      return fixed !== undefined && CONTROLS.test(fixed)
        ? bytes(base64Of(bytesFromText(fixed)))
        : `[Text.Encoding]::UTF8.GetBytes(${psValue(text)})`;
    },
    bytes,
    file: (path) => `[IO.File]::ReadAllBytes(${quote(path)})`,
  });
}
