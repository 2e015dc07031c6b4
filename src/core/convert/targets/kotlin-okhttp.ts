import { base64Of } from '../../content';
import { byUnknownParser } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type Plan, planOf } from '../plan';
import { quoteKotlin as quote } from '../quoting/kotlin';
import { type Target, unsupported } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { rendered } from '../writing/finish';
import { isBinary, joinChunks, leftOutComments, partContent } from '../writing/lines';
import { httpProxyOf } from '../writing/proxy';
import { wholeLimit } from '../writing/time-limit';

/** A constant may be 65,535 bytes long on the Java virtual machine. */
const LITERAL_CHARS = 20_000;
const literal = (text: string): string =>
  joinChunks(text, LITERAL_CHARS, quote, (pieces) => `listOf(${pieces.join(', ')}).joinToString("")`);
const value = (one: Value): string => writeValue(one, literal, identOf);

/** OkHttp on Kotlin. */
export const kotlinOkhttp = {
  id: 'kotlin-okhttp',
  label: 'Kotlin, OkHttp',
  language: 'Kotlin',
  extension: 'kt',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUnknownParser,
      repeats: true,
      unicode: false,
      givesUp: { afterS: 10, on: 'wait' },
      payloadWithGet: false,
      parts: true,
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = options;
    const proxy = httpProxyOf(plan, 'give the client a proxyAuthenticator');
    if (ignoresCertificate)
      plan.warnings.push(unsupported('Leave to take any certificate', 'give the client an SSLSocketFactory that does'));
    const builder = [
      // The limit of the whole call leaves its client's own limits of 10 s for each part of it.
      ...(timeLimitS === undefined
        ? []
        : ['callTimeout', 'connectTimeout', 'writeTimeout', 'readTimeout'].map(
            (name) =>
              `.${name}(${wholeLimit(
                timeLimitS,
                (s) => `${s}, TimeUnit.SECONDS`,
                (ms) => `${ms}, TimeUnit.MILLISECONDS`,
              )})`,
          )),
      ...(redirects === undefined ? [] : [`.followRedirects(${redirects === 'follow'})`]),
      ...(proxy === undefined
        ? []
        : [`.proxy(Proxy(Proxy.Type.HTTP, InetSocketAddress(${quote(proxy.host)}, ${proxy.port})))`]),
    ];
    const { lines: bodyLines, expression, imports } = bodyOf(plan);
    const headers = plan.headers.map((header) => `    .addHeader(${quote(header.name)}, ${value(header.value)})`);
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `val ${identOf(variable)} = ${variable.isSecret ? `System.getenv(${quote(envOf(variable))})` : quote(variable.value)}`,
      ),
      ...(builder.length === 0
        ? ['val client = OkHttpClient()']
        : ['val client = OkHttpClient.Builder()', ...[...builder, '.build()'].map((call) => `    ${call}`)]),
      ...bodyLines,
      'val request = Request.Builder()',
      `    .url(${value(plan.address)})`,
      ...headers,
      ...leftOutComments(plan, '//', quote, '    '),
      `    .method(${quote(plan.method)}, ${expression})`,
      '    .build()',
      '',
      'client.newCall(request).execute().use { response ->',
      ...(prints === 'status'
        ? ['    println(response.code)']
        : [
            // A redirect that it stops at is no success for it, and no failure either.
            `    check(${redirects === 'stop' ? 'response.code < 400' : 'response.isSuccessful'}) { "\${response.code} \${response.message}: \${response.body?.string()}" }`,
            isBinary(plan)
              ? '    File("response").writeBytes(response.body!!.bytes())'
              : '    println(response.body!!.string())',
          ]),
      '}',
    ];
    const all = [
      ...imports,
      ...(isBinary(plan) || plan.body.type === 'file' ? ['java.io.File'] : []),
      ...(proxy === undefined ? [] : ['java.net.InetSocketAddress', 'java.net.Proxy']),
      ...(timeLimitS === undefined ? [] : ['java.util.concurrent.TimeUnit']),
      'okhttp3.OkHttpClient',
      'okhttp3.Request',
    ];
    const text = [
      ...[...new Set(all)].sort().map((name) => `import ${name}`),
      '',
      `fun ${options.asFunction ? 'send' : 'main'}() {`,
      ...lines.map((line) => (line === '' ? '' : `    ${line}`)),
      '}',
      ...(options.asFunction ? ['', 'fun main() = send()'] : []),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const TO_BODY = 'okhttp3.RequestBody.Companion.toRequestBody';

function bodyOf({ body, method }: Plan): {
  readonly lines: string[];
  readonly expression: string;
  readonly imports: string[];
} {
  const none = { lines: [], expression: 'null', imports: [] };
  switch (body.type) {
    case 'none':
      return /^(POST|PUT|PATCH|PROPPATCH|REPORT)$/.test(method)
        ? { lines: [], expression: 'ByteArray(0).toRequestBody()', imports: [TO_BODY] }
        : none;
    case 'text':
      return {
        lines: [`val payload = ${value(body.value)}`],
        expression: 'payload.toByteArray().toRequestBody()',
        imports: [TO_BODY],
      };
    case 'bytes':
      return {
        lines: [],
        expression: `Base64.getDecoder().decode(${literal(base64Of(body.bytes))}).toRequestBody()`,
        imports: [TO_BODY, 'java.util.Base64'],
      };
    case 'file':
      return { lines: [], expression: `File(${quote(body.path)}).readBytes().toRequestBody()`, imports: [TO_BODY] };
    case 'parts': {
      const imports = ['okhttp3.MultipartBody', TO_BODY];
      const parts = body.parts.map((part) => {
        const { text, base64 } = partContent(part);
        if (part.fileName === undefined && part.contentType === undefined && text !== undefined) {
          return `    .addFormDataPart(${quote(part.name)}, ${literal(text)})`;
        }
        if (base64 !== undefined) imports.push('java.util.Base64');
        if (part.bytes === undefined) imports.push('java.io.File');
        const bytes =
          text !== undefined
            ? `${literal(text)}.toByteArray()`
            : base64 !== undefined
              ? `Base64.getDecoder().decode(${literal(base64)})`
              : `File(${quote(part.fileName ?? part.name)}).readBytes()`;
        if (part.contentType !== undefined) imports.push('okhttp3.MediaType.Companion.toMediaType');
        const type = part.contentType === undefined ? '' : `${quote(part.contentType)}.toMediaType()`;
        return `    .addFormDataPart(${quote(part.name)}, ${part.fileName === undefined ? 'null' : quote(part.fileName)}, ${bytes}.toRequestBody(${type}))`;
      });
      return {
        lines: ['val form = MultipartBody.Builder()', '    .setType(MultipartBody.FORM)', ...parts, '    .build()'],
        expression: 'form',
        imports,
      };
    }
    default:
      return body satisfies never;
  }
}
