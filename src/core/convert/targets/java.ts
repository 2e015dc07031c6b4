import { base64Of } from '../../content';
import { byJava } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf, sendsEmptyBody } from '../plan';
import { quoteJava as quote } from '../quoting/java';
import type { Target } from '../target';
import { envOf, identOf, plainText, type Value, writeValue } from '../value';
import { rendered } from '../writing/finish';
import { isBinary, joinChunks, leftOutComments } from '../writing/lines';
import { httpProxyOf } from '../writing/proxy';
import { wholeLimit } from '../writing/time-limit';

const value = (one: Value): string => writeValue(one, literal, identOf);
/** A constant may be 65,535 bytes long (Java virtual machine specification, 4.4.7). */
const LITERAL_CHARS = 20_000;
const literal = (text: string): string =>
  joinChunks(text, LITERAL_CHARS, quote, (pieces) => `String.join("", ${pieces.join(', ')})`);

/** java.net.http, as one file that `java` runs. */
export const java = {
  id: 'java',
  label: 'Java, java.net.http',
  language: 'Java',
  extension: 'java',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byJava,
      repeats: true,
      unicode: false,
      payloadWithGet: true,
      parts: false,
      refuses: (name) =>
        /^(connection|content-length|expect|upgrade)$/.test(name) ? 'java.net.http computes it' : undefined,
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan, 'give the client an Authenticator');
    const setsHost = plan.headers.some(({ name }) => name.toLowerCase() === 'host');
    const publishers = 'HttpRequest.BodyPublishers';
    const body = bodyOf(plan, publishers);
    const handler = isBinary(plan)
      ? 'ofFile(Path.of("response"))'
      : prints === 'status'
        ? 'discarding()'
        : 'ofString()';
    const client = [
      ...(/^http:/i.test(plainText(plan.address)) ? ['.version(HttpClient.Version.HTTP_1_1)'] : []),
      ...(redirects === 'follow' ? ['.followRedirects(HttpClient.Redirect.NORMAL)'] : []),
      ...(proxy === undefined
        ? []
        : [`.proxy(ProxySelector.of(new InetSocketAddress(${quote(proxy.host)}, ${proxy.port})))`]),
      ...(ignoresCertificate ? ['.sslContext(trustAll())'] : []),
    ];
    const main = [
      ...(setsHost ? ['System.setProperty("jdk.httpclient.allowRestrictedHeaders", "host");'] : []),
      ...plan.variables.map(
        (variable) =>
          `var ${identOf(variable)} = ${variable.isSecret ? `System.getenv(${quote(envOf(variable))})` : quote(variable.value)};`,
      ),
      `var request = HttpRequest.newBuilder(URI.create(${encodedAddress(plan)}))`,
      `    .method(${quote(plan.method)}, ${body})`,
      ...plan.headers.map(({ name, value: own }) => `    .header(${quote(name)}, ${value(own)})`),
      ...leftOutComments(plan, '//', quote, '    '),
      ...(timeLimitS === undefined
        ? []
        : [
            `    .timeout(Duration.${wholeLimit(
              timeLimitS,
              (s) => `ofSeconds(${s})`,
              (ms) => `ofMillis(${ms})`,
            )})`,
          ]),
      '    .build();',
      client.length === 0
        ? 'var client = HttpClient.newHttpClient();'
        : `var client = HttpClient.newBuilder()${client.join('')}.build();`,
      `var response = client.send(request, HttpResponse.BodyHandlers.${handler});`,
      ...(prints === 'status'
        ? ['System.out.println(response.statusCode());']
        : [
            'if (response.statusCode() >= 400) {',
            '    throw new IllegalStateException(response.statusCode() + ": " + response.body());',
            '}',
            ...(isBinary(plan) ? [] : ['System.out.println(response.body());']),
          ]),
    ];
    const imports = [
      ...(proxy === undefined ? [] : ['java.net.InetSocketAddress', 'java.net.ProxySelector']),
      'java.net.URI',
      'java.net.http.HttpClient',
      'java.net.http.HttpRequest',
      'java.net.http.HttpResponse',
      ...(isBinary(plan) || plan.body.type === 'file' ? ['java.nio.file.Path'] : []),
      ...(timeLimitS === undefined ? [] : ['java.time.Duration']),
      ...(plan.body.type === 'bytes' ? ['java.util.Base64'] : []),
      ...(ignoresCertificate
        ? ['javax.net.ssl.SSLContext', 'javax.net.ssl.TrustManager', 'javax.net.ssl.X509ExtendedTrustManager']
        : []),
    ];
    const name = options.asFunction ? 'static void send()' : 'public static void main(String[] args)';
    const text = [
      ...imports.map((path) => `import ${path};`),
      '',
      'public class Main {',
      `    ${name} throws Exception {`,
      ...main.map((line) => `        ${line}`),
      '    }',
      ...(options.asFunction
        ? ['', '    public static void main(String[] args) throws Exception {', '        send();', '    }']
        : []),
      ...(ignoresCertificate ? TRUST_ALL : []),
      '}',
    ];
    return rendered(plan, text);
  },
} satisfies Target;

/** URI takes only what RFC 2396 allows; what else stands in the address is percent-encoded. */
function encodedAddress(plan: Plan): string {
  const encode = (text: string): string =>
    text.replace(/["<>\\^`{|}[\]]|%(?![0-9A-Fa-f]{2})/g, (character) => encodeURIComponent(character));
  const encoded = plan.address.map((piece, at) => {
    if (!('text' in piece)) return piece;
    // Brackets stand around an address of IPv6 (RFC 3986 3.2.2).
    const origin = at === 0 ? (/^[a-z][a-z0-9+.-]*:\/\/[^/?#]*/i.exec(piece.text)?.[0] ?? '') : '';
    return { text: origin + encode(piece.text.slice(origin.length)) };
  });
  return value(encoded);
}

function bodyOf({ body, method }: Plan<FlatBody>, publishers: string): string {
  switch (body.type) {
    case 'none':
      return sendsEmptyBody(method) ? `${publishers}.ofString("")` : `${publishers}.noBody()`;
    case 'text':
      return `${publishers}.ofString(${value(body.value)})`;
    case 'file':
      return `${publishers}.ofFile(Path.of(${quote(body.path)}))`;
    case 'bytes':
      return `${publishers}.ofByteArray(Base64.getDecoder().decode(${literal(base64Of(body.bytes))}))`;
    default:
      return body satisfies never;
  }
}

const TRUST_ALL = [
  '',
  '    private static SSLContext trustAll() throws Exception {',
  '        var trust = new X509ExtendedTrustManager() {',
  ...['Client', 'Server'].flatMap((side) =>
    ['', ', java.net.Socket socket', ', javax.net.ssl.SSLEngine engine'].map(
      (more) =>
        `            public void check${side}Trusted(java.security.cert.X509Certificate[] chain, String type${more}) {}`,
    ),
  ),
  '            public java.security.cert.X509Certificate[] getAcceptedIssuers() { return new java.security.cert.X509Certificate[0]; }',
  '        };',
  '        var context = SSLContext.getInstance("TLS");',
  '        context.init(null, new TrustManager[] { trust }, null);',
  '        return context;',
  '    }',
];
