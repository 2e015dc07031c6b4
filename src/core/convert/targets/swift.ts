import { byUnknownParser } from '../addresses';
import { DEFAULT_OPTIONS } from '../options';
import { type FlatBody, type Plan, planOf } from '../plan';
import { quoteSwift as quote } from '../quoting/swift';
import { type Target, unsupported } from '../target';
import { envOf, identOf, type Value, writeValue } from '../value';
import { asFunction, rendered, writeBody } from '../writing/finish';
import { isBinary, leftOutComments } from '../writing/lines';
import { httpProxyOf } from '../writing/proxy';

const value = (one: Value): string => writeValue(one, quote, identOf);

/** Swift's URLSession. */
export const swift = {
  id: 'swift',
  label: 'Swift, URLSession',
  language: 'Swift',
  extension: 'swift',
  // Long because the code that it emits stands here from top to bottom, in its order.
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(draft, options, {
      address: byUnknownParser,
      repeats: false,
      unicode: false,
      givesUp: { afterS: 60, on: 'wait' },
      payloadWithGet: false,
      parts: false,
      addsType: 'application/x-www-form-urlencoded',
      refuses: (name) =>
        /^(connection|content-length|host|proxy-.*)$/.test(name) ? 'URLSession computes it' : undefined,
    });
    const { timeLimitS, redirects, ignoresCertificate, prints } = plan.options;
    const proxy = httpProxyOf(plan, 'answer its challenge in a delegate of the session');
    if (redirects === 'stop')
      plan.warnings.push(unsupported('Stopping at redirects', 'give the session a delegate that does'));
    if (ignoresCertificate)
      plan.warnings.push(unsupported('Leave to take any certificate', 'give the session a delegate that does'));
    const body = bodyOf(plan);
    const isMap = options.headers === 'map' && plan.headers.length > 0;
    const lines = [
      ...plan.variables.map(
        (variable) =>
          `let ${identOf(variable)} = ${variable.isSecret ? `ProcessInfo.processInfo.environment[${quote(envOf(variable))}]!` : quote(variable.value)}`,
      ),
      `var request = URLRequest(url: URL(string: ${value(plan.address)})!)`,
      `request.httpMethod = ${quote(plan.method)}`,
      ...(isMap
        ? [
            'request.allHTTPHeaderFields = [',
            ...plan.headers.map((header) => `    ${quote(header.name)}: ${value(header.value)},`),
            ...leftOutComments(plan, '//', quote, '    '),
            ']',
          ]
        : [
            ...plan.headers.map(
              (header) => `request.setValue(${value(header.value)}, forHTTPHeaderField: ${quote(header.name)})`,
            ),
            ...leftOutComments(plan, '//', quote),
          ]),
      ...(plan.headers.some(({ name }) => name.toLowerCase() === 'cookie')
        ? ['request.httpShouldHandleCookies = false']
        : []),
      ...(body === undefined ? [] : [`request.httpBody = ${body}`]),
      ...(timeLimitS === undefined ? [] : [`request.timeoutInterval = ${timeLimitS}`]),
      ...(proxy === undefined
        ? ['let session = URLSession.shared']
        : [
            'let configuration = URLSessionConfiguration.default',
            `configuration.connectionProxyDictionary = ["HTTPSEnable": 1, "HTTPSProxy": ${quote(proxy.host)}, "HTTPSPort": ${proxy.port}, "HTTPEnable": 1, "HTTPProxy": ${quote(proxy.host)}, "HTTPPort": ${proxy.port}]`,
            'let session = URLSession(configuration: configuration)',
          ]),
      '',
      'let (body, response) = try await session.data(for: request)',
      'let status = (response as! HTTPURLResponse).statusCode',
      ...(prints === 'status'
        ? ['print(status)']
        : [
            'guard status < 400 else { fatalError("\\(status): \\(String(decoding: body, as: UTF8.self))") }',
            isBinary(plan)
              ? 'try body.write(to: URL(fileURLWithPath: "response"))'
              : plan.answer === 'json'
                ? 'print(try JSONSerialization.jsonObject(with: body))'
                : 'print(String(decoding: body, as: UTF8.self))',
          ]),
    ];
    const text = [
      'import Foundation',
      '#if canImport(FoundationNetworking)',
      'import FoundationNetworking',
      '#endif',
      '',
      ...asFunction(plan, lines, {
        open: ['func send() async throws {'],
        indent: '    ',
        close: ['}'],
        call: ['try await send()'],
      }),
    ];
    return rendered(plan, text);
  },
} satisfies Target;

const bodyOf = (plan: Plan<FlatBody>): string | undefined =>
  writeBody(plan, {
    text: (text) => (text.length > 1 ? `Data((${value(text)}).utf8)` : `Data(${value(text)}.utf8)`),
    bytes: (base64) => `Data(base64Encoded: "${base64}")!`,
    file: (path) => `try Data(contentsOf: URL(fileURLWithPath: ${quote(path)}))`,
  });
