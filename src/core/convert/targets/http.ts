import { bytesFromText, joinBytes } from '../../content';
import { sentAsIs } from '../addresses';
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
        address: sentAsIs,
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
    const isText = bytes === undefined || bytesFromText(body).every((byte, at) => byte === bytes[at]);
    if (options.secretsFromEnv)
      plan.warnings.push('A message has no environment to read from: it contains its secrets.');
    if (plan.body.type === 'file') plan.warnings.push('The payload’s file is not included.');
    const text = `${head}\r\n\r\n${body}`;
    return {
      text,
      ...(isText ? {} : { bytes: joinBytes([bytesFromText(`${head}\r\n\r\n`), bytes]) }),
      warnings: plan.warnings,
    };
  },
} satisfies Target;
