import { decodeBody } from '#core/content';
import type { NameValue } from '#core/model';
import { type Asked, type Given, lengthTold, shownOrigin } from '#core/rehearse';
import { inflateWithZlib } from '../inflate';
import { SEND_BOUNDS, type SendBounds } from '../send/bounds';
import { asResponse } from '../send/held';
import type { WireRequest } from '../send/message';
import { sendOnce } from '../send/send';

/** What came of sending a request to its real host. */
export interface Forwarded {
  readonly given: Given | undefined;
  readonly sentence: string;
}

/** Headers that are between a client and the rehearsal alone (RFC 9110 7.6.1). */
const OF_CONNECTION =
  /^(?:host|connection|keep-alive|proxy-.*|transfer-encoding|te|trailer|upgrade|content-length|expect)$/i;

/**
 * Sends what nothing fits to the host that it was meant for, in the words of the captured site. Hosts that the capture does not
 * know are not looked for in a private network.
 */
export function forwarder(
  origins: ReadonlySet<string>,
  bounds: Pick<SendBounds, 'toHosts' | 'certificate'> = { toHosts: SEND_BOUNDS.toHosts },
): (asked: Asked) => Promise<Forwarded> {
  return async (asked) => {
    const { origin } = asked;
    const wire = origin === undefined ? undefined : wireOf(asked, origin);
    if (origin === undefined || wire === undefined)
      return { given: undefined, sentence: 'Its address names no host to send it to.' };
    const isSentTo = bounds.toHosts.has(wire.host) || bounds.toHosts.has(`${wire.host}:${wire.port}`);
    const { outcome } = await sendOnce(wire, {
      ...SEND_BOUNDS,
      ...bounds,
      refusesPrivate: !origins.has(origin) && !isSentTo,
    });
    const to = shownOrigin(origin);
    if (outcome.type === 'none') return { given: undefined, sentence: `Sent to ${to}: ${outcome.sentence}` };
    const response = asResponse(outcome);
    const coding = outcome.headers
      .find(({ name }) => /^content-encoding$/i.test(name))
      ?.value.trim()
      .toLowerCase();
    return {
      given: {
        type: 'response',
        status: outcome.status,
        statusText: outcome.statusText,
        headers: outcome.headers.filter(
          ({ name }) => !/^(?:connection|keep-alive|transfer-encoding|content-length|content-encoding)$/i.test(name),
        ),
        body: decodeBody(response, inflateWithZlib)?.bytes ?? outcome.body,
        mimeType: response.mimeType,
        coding,
        ...(asked.method === 'HEAD' ? { headBytes: lengthTold(outcome.headers) } : {}),
        breaksOff: outcome.broke !== undefined,
        staysOpen: false,
        remarks: [],
      },
      sentence: `Sent to ${to}, which answered ${outcome.status}.`,
    };
  };
}

function wireOf({ method, path, query, headers, body }: Asked, origin: string): WireRequest | undefined {
  const [, scheme = '', bracketed, name = '', port = ''] =
    /^(https?):\/\/(?:\[([^\]]*)\]|([^:]*)):(\d+)$/.exec(origin) ?? [];
  if (scheme === '') return undefined;
  const authority = shownOrigin(origin).replace(/^https?:\/\//, '');
  const kept = headers.filter((header) => !OF_CONNECTION.test(header.name));
  const length: NameValue[] =
    body.length > 0 || /^(?:POST|PUT|PATCH)$/i.test(method)
      ? [{ name: 'Content-Length', value: String(body.length) }]
      : [];
  const lines = [{ name: 'Host', value: authority }, ...kept, ...length, { name: 'Connection', value: 'close' }];
  return {
    isSecure: scheme === 'https',
    host: bracketed ?? name,
    port: Number(port),
    authority,
    method,
    target: path + query,
    headers: lines.map((header) => [header.name, Buffer.from(header.value, 'utf8').toString('latin1')]),
    added: [],
    body: body.length === 0 ? undefined : body,
    warnings: [],
  };
}
