import { sentAsIs } from './addresses';
import type { Draft } from './draft';
import { DEFAULT_OPTIONS, type RenderOptions } from './options';
import { bodyBytes, planOf, sendsEmptyBody } from './plan';
import { fillIn, plainText } from './value';

/** A request as an HTTP/1.1 message (RFC 9112), in its parts. */
export interface Message {
  readonly method: string;
  readonly scheme: string;
  /** Host and port as the address has them. */
  readonly authority: string;
  /** Path and query, byte for byte. */
  readonly target: string;
  readonly headers: readonly { readonly name: string; readonly value: string }[];
  /** Names of the headers that no draft has, and every client adds. */
  readonly added: readonly string[];
  readonly body: Uint8Array | undefined;
  /** The payload's file, where it is read from one. */
  readonly file: string | undefined;
  readonly warnings: string[];
}

/** A draft as a message: just what it says, with the host and the length that the protocol asks for. */
export function planMessage(draft: Draft, options: RenderOptions = DEFAULT_OPTIONS): Message {
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
      files: false,
    },
  );
  const [, scheme = '', authority = '', target = ''] =
    /^([a-z]+):\/\/(?:[^/?@]*@)?([^/?]*)(.*)$/is.exec(plainText(plan.address)) ?? [];
  const body = bodyBytes(plan.body);
  const hasHost = plan.headers.some(({ name }) => name.toLowerCase() === 'host');
  const needsLength = body !== undefined || sendsEmptyBody(plan.method);
  return {
    method: plan.method,
    scheme,
    authority,
    target: target.startsWith('/') ? target : `/${target}`,
    headers: [
      ...(hasHost ? [] : [{ name: 'Host', value: authority }]),
      ...plan.headers.map(({ name, value }) => ({ name, value: plainText(value) })),
      ...(needsLength ? [{ name: 'Content-Length', value: String(body?.length ?? 0) }] : []),
    ],
    added: [...(hasHost ? [] : ['Host']), ...(needsLength ? ['Content-Length'] : [])],
    body,
    file: plan.body.type === 'file' ? plan.body.path : undefined,
    warnings: plan.warnings,
  };
}
