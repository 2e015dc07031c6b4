import { byUnknownParser } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { hostPort } from '../proxy';
import { quoteDart as quote } from '../quoting/dart';
import type { Target } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { rendered, writeBody } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';
import { httpProxyOf } from '../writing/proxy';
import { wholeLimit } from '../writing/time-limit';

const value = (one: Value): string => writeValue(one, quote, identOf);

/** Dart's own HttpClient. */
export const dart = {
  id: 'dart',
  label: 'Dart, HttpClient',
  language: 'Dart',
  extension: 'dart',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUnknownParser,
      repeats: true,
      unicode: false,
      payloadWithGet: true,
      parts: false,
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan, 'call addProxyCredentials of the client');
    const body = bodyOf(plan);
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `final ${identOf(variable)} = ${variable.isSecret ? `Platform.environment[${quote(envOf(variable))}]!` : quote(variable.value)};`,
      ),
      'final client = HttpClient();',
      ...(timeLimitS === undefined
        ? []
        : [
            `client.connectionTimeout = const Duration(${wholeLimit(
              timeLimitS,
              (s) => `seconds: ${s}`,
              (ms) => `milliseconds: ${ms}`,
            )});`,
          ]),
      ...(proxy === undefined ? [] : [`client.findProxy = (_) => ${quote(`PROXY ${hostPort(proxy)}`)};`]),
      ...(ignoresCertificate ? ['client.badCertificateCallback = (_, __, ___) => true;'] : []),
      `final request = await client.openUrl(${quote(plan.method)}, Uri.parse(${value(plan.address)}));`,
      ...(redirects === undefined ? [] : [`request.followRedirects = ${redirects === 'follow'};`]),
      // The client has headers of its own: what is set takes their place, what is added stands beside it.
      ...plan.headers.map(({ name, value: own }, at) => {
        const isFirst = plan.headers.findIndex((one) => one.name.toLowerCase() === name.toLowerCase()) === at;
        return `request.headers.${isFirst ? 'set' : 'add'}(${quote(name)}, ${value(own)}, preserveHeaderCase: true);`;
      }),
      ...leftOutComments(plan, '//', quote),
      ...(body === undefined
        ? []
        : [`final payload = ${body};`, 'request.contentLength = payload.length;', 'request.add(payload);']),
      'final response = await request.close();',
      ...(prints === 'status'
        ? ['print(response.statusCode);', 'await response.drain<void>();']
        : [
            ...(isBinary(plan)
              ? [
                  'if (response.statusCode >= 400) throw HttpException(response.reasonPhrase);',
                  `await response.pipe(File('response').openWrite());`,
                ]
              : [
                  'final body = await response.transform(utf8.decoder).join();',
                  `if (response.statusCode >= 400) throw HttpException('\${response.statusCode}: $body');`,
                  plan.answer === 'json'
                    ? `print(const JsonEncoder.withIndent('  ').convert(jsonDecode(body)));`
                    : 'print(body);',
                ]),
          ]),
      'client.close();',
    ];
    const text = [
      `import 'dart:convert';`,
      `import 'dart:io';`,
      '',
      `Future<void> ${options.asFunction ? 'send' : 'main'}() async {`,
      ...lines.map((line) => `  ${line}`),
      '}',
      ...(options.asFunction ? ['', 'Future<void> main() => send();'] : []),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const bodyOf = (plan: Plan<FlatBody>): string | undefined =>
  writeBody(plan, {
    text: (text) => `utf8.encode(${value(text)})`,
    bytes: (base64) => `base64Decode('${base64}')`,
    file: (path) => `await File(${quote(path)}).readAsBytes()`,
  });
