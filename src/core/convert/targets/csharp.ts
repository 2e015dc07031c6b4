import { base64Of } from '../../content';
import { byUnknownParser } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, planOf } from '../plan';
import { hostPort, proxyParts } from '../proxy';
import { quoteCSharp as quote } from '../quoting/csharp';
import type { Target } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { rendered } from '../writing/finish';
import { indentLines } from '../writing/indent';
import { isBinary, leftOutComments, partContent } from '../writing/lines';

const value = (one: Value): string => writeValue(one, quote, identOf);
/** Headers that describe the content belong to it in .NET. */
const OF_CONTENT = /^(allow|content-.*|expires|last-modified)$/i;

/** Methods that .NET has names for. */
const OWN_METHODS: ReadonlyMap<string, string> = new Map(
  ['Get', 'Post', 'Put', 'Patch', 'Delete', 'Head', 'Options'].map((name) => [
    name.toUpperCase(),
    `HttpMethod.${name}`,
  ]),
);

/** .NET's HttpClient, as a file of top-level statements. */
export const csharp = {
  id: 'csharp',
  label: 'C#, HttpClient',
  language: 'C#',
  extension: 'cs',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUnknownParser,
      repeats: true,
      unicode: false,
      givesUp: { afterS: 100, on: 'whole' },
      payloadWithGet: true,
      parts: true,
    });
    const { timeLimitS, redirects, proxy, ignoresCertificate, prints } = plan.options;
    const handler = [
      ...(redirects === undefined ? [] : [`AllowAutoRedirect = ${redirects === 'follow'}`]),
      ...(plan.headers.some(({ name }) => name.toLowerCase() === 'cookie') ? ['UseCookies = false'] : []),
      ...(draft.wantsCompressed ? ['AutomaticDecompression = DecompressionMethods.All'] : []),
      ...(proxy === undefined ? [] : [`Proxy = ${webProxy(proxy)}`]),
      ...(ignoresCertificate ? ['ServerCertificateCustomValidationCallback = (_, _, _, _) => true'] : []),
    ];
    const usings = [
      ...(handler.length > 0 ? ['System.Net'] : []),
      ...(plan.body.type === 'text' || plan.body.type === 'parts' ? ['System.Text'] : []),
    ];
    const ofContent = plan.headers.filter(({ name }) => OF_CONTENT.test(name));
    const ofRequest = plan.headers.filter(({ name }) => !OF_CONTENT.test(name));
    const content = contentLines(plan);
    const add =
      (on: string) =>
      (header: Plan['headers'][number]): string =>
        `${on}.TryAddWithoutValidation(${quote(header.name)}, ${value(header.value)});`;
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `var ${identOf(variable)} = ${variable.isSecret ? `Environment.GetEnvironmentVariable(${quote(envOf(variable))})` : quote(variable.value)};`,
      ),
      ...(handler.length === 0
        ? ['using var client = new HttpClient();']
        : [`using var client = new HttpClient(new HttpClientHandler { ${handler.join(', ')} });`]),
      ...(timeLimitS === undefined ? [] : [`client.Timeout = TimeSpan.FromSeconds(${timeLimitS});`]),
      `using var request = new HttpRequestMessage(${OWN_METHODS.get(plan.method) ?? `new HttpMethod(${quote(plan.method)})`}, ${value(plan.address)});`,
      ...ofRequest.map(add('request.Headers')),
      ...leftOutComments(plan, '//', quote),
      ...content,
      ...(content.length === 0 ? [] : ofContent.map(add('request.Content.Headers'))),
      'using var response = await client.SendAsync(request);',
      ...(prints === 'status'
        ? ['Console.WriteLine((int)response.StatusCode);']
        : [
            // A redirect that it stops at is no success for it, and no failure either.
            `${redirects === 'stop' ? 'if ((int)response.StatusCode >= 400) ' : ''}response.EnsureSuccessStatusCode();`,
            isBinary(plan)
              ? 'await File.WriteAllBytesAsync("response", await response.Content.ReadAsByteArrayAsync());'
              : 'Console.WriteLine(await response.Content.ReadAsStringAsync());',
          ]),
    ];
    if (content.length === 0 && ofContent.length > 0) {
      plan.warnings.push('Headers of the content need a payload in .NET; without one they are left out.');
    }
    const text = [
      ...usings.map((name) => `using ${name};`),
      ...(usings.length > 0 ? [''] : []),
      ...(options.asFunction
        ? ['await Send();', '', 'static async Task Send()', '{', ...indentLines(lines, '    '), '}']
        : lines),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

function contentLines({ body }: Plan): string[] {
  switch (body.type) {
    case 'none':
      return [];
    case 'text':
      return [`request.Content = new ByteArrayContent(Encoding.UTF8.GetBytes(${value(body.value)}));`];
    case 'bytes':
      return [`request.Content = new ByteArrayContent(Convert.FromBase64String("${base64Of(body.bytes)}"));`];
    case 'file':
      return [`request.Content = new ByteArrayContent(await File.ReadAllBytesAsync(${quote(body.path)}));`];
    case 'parts':
      return [
        'var form = new MultipartFormDataContent();',
        ...body.parts.flatMap((part, at) => {
          const { text, base64 } = partContent(part);
          const bytes =
            text !== undefined
              ? `Encoding.UTF8.GetBytes(${quote(text)})`
              : base64 !== undefined
                ? `Convert.FromBase64String("${base64}")`
                : `await File.ReadAllBytesAsync(${quote(part.fileName ?? part.name)})`;
          const names = [quote(part.name), ...(part.fileName === undefined ? [] : [quote(part.fileName)])].join(', ');
          return [
            `var part${at} = new ByteArrayContent(${bytes});`,
            ...(part.contentType === undefined
              ? []
              : [`part${at}.Headers.TryAddWithoutValidation("Content-Type", ${quote(part.contentType)});`]),
            `form.Add(part${at}, ${names});`,
          ];
        }),
        'request.Content = form;',
      ];
    default:
      return body satisfies never;
  }
}

/** It does not read the credentials of its URL. */
function webProxy(proxy: string): string {
  const { scheme, credentials, ...place } = proxyParts(proxy);
  const made = `new WebProxy(${quote(`${scheme}://${hostPort({ scheme, credentials, ...place })}`)})`;
  if (credentials === undefined) return made;
  const { user, password } = credentials;
  return `${made} { Credentials = new NetworkCredential(${quote(user)}, ${quote(password)}) }`;
}
