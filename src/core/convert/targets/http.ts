import { bytesFromText, joinBytes } from '../../content';
import { planMessage } from '../message';
import { DEFAULT_OPTIONS } from '../options';
import type { Target } from '../target';

/** The request as an HTTP/1.1 message (RFC 9112): what goes on the wire, to be read or sent by a raw socket. */
export const http = {
  id: 'http',
  label: 'HTTP/1.1 message',
  language: 'HTTP',
  extension: 'http',
  render: (draft, options = DEFAULT_OPTIONS) => {
    const { method, target, headers, body: bytes, file, warnings } = planMessage(draft, options);
    const head = [`${method} ${target} HTTP/1.1`, ...headers.map(({ name, value }) => `${name}: ${value}`)].join(
      '\r\n',
    );
    const body = bytes === undefined ? '' : new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
    const isText = bytes === undefined || bytesFromText(body).every((byte, at) => byte === bytes[at]);
    if (options.secretsFromEnv) warnings.push('A message has no environment to read from: it contains its secrets.');
    if (file !== undefined) warnings.push('The payload’s file is not included.');
    const text = `${head}\r\n\r\n${body}`;
    return {
      text,
      ...(isText ? {} : { bytes: joinBytes([bytesFromText(`${head}\r\n\r\n`), bytes]) }),
      warnings,
    };
  },
} satisfies Target;
