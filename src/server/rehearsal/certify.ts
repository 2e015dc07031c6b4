import { generate } from 'selfsigned';
import type { LocalAddresses } from '#core/rehearse';

const VALID_MS = 30 * 86_400_000;
/** GeneralName: a DNS name, an address (RFC 5280 4.2.1.6). */
const [DNS_NAME, IP_ADDRESS] = [2, 7] as const;

/** A certificate of a rehearsal's own for its names and for loopback, with its key, in PEM; made anew each time. */
export async function certify(names: readonly string[]): Promise<{ readonly key: string; readonly cert: string }> {
  const made = await generate([{ name: 'commonName', value: 'Trazado rehearsal' }], {
    algorithm: 'sha256',
    notAfterDate: new Date(Date.now() + VALID_MS),
    extensions: [
      { name: 'basicConstraints', cA: true },
      {
        name: 'subjectAltName',
        altNames: [...names.map((value) => ({ type: DNS_NAME, value })), { type: IP_ADDRESS, ip: '127.0.0.1' }],
      },
    ],
  });
  return { key: made.private, cert: made.cert };
}

/** A certificate for each name, and for loopback itself. */
export const certifiedNames = (addresses: LocalAddresses): string[] => [
  ...addresses.origins.flatMap((origin) => {
    const local = addresses.localOrigin(origin);
    return local === undefined ? [] : [new URL(local).hostname];
  }),
  'localhost',
];
