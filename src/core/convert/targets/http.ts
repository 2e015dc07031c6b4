import { bytesFromText } from '../../content';
import { DEFAULT_OPTIONS } from '../options';
import { bodyBytes, planOf, sendsEmptyBody } from '../plan';
import type { Target } from '../target';
import { fillIn, plainText } from '../value';

/** The request as an HTTP/1.1 message (RFC 9112): what goes on the wire, to be read or sent by a raw socket. */
export const http = {
  id: 'http',
  label: 'HTTP/1.1 message',
  language: 'HTTP',
  extension: 'http',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const plan = planOf(
      fillIn(draft),
      { ...options, secretsFromEnv: false },
      {
        isCommand: true,
        address: 'exact',
        repeats: true,
        unicode: true,
        controls: true,
        payloadWithGet: true,
        parts: false,
      },
    );
    const [, host = '', target = ''] = /^[a-z]+:\/\/(?:[^/?@]*@)?([^/?]*)(.*)$/is.exec(plainText(plan.address)) ?? [];
    const bytes = bodyBytes(plan.body);
    const hasHost = plan.headers.some(({ name }) => name.toLowerCase() === 'host');
    const needsLength = bytes !== undefined || sendsEmptyBody(plan.method);
    const head = [
      `${plan.method} ${target.startsWith('/') ? target : `/${target}`} HTTP/1.1`,
      ...(hasHost ? [] : [`Host: ${host}`]),
      ...plan.headers.map(({ name, value }) => `${name}: ${plainText(value)}`),
      ...(needsLength ? [`Content-Length: ${bytes?.length ?? 0}`] : []),
    ].join('\r\n');
    const body = bytes === undefined ? '' : new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
    if (bytes !== undefined && bytesFromText(body).some((byte, at) => byte !== bytes[at])) {
      plan.warnings.push('The payload is not text: bytes that are not UTF-8 are written as U+FFFD.');
    }
    if (options.secretsFromEnv)
      plan.warnings.push('A message has no environment to read from: it contains its secrets.');
    if (plan.body.type === 'file') plan.warnings.push('The payload’s file is not included.');
    return { text: `${head}\r\n\r\n${body}`, warnings: plan.warnings };
  },
} satisfies Target;
