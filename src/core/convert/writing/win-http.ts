import { byUnknownParser } from '../addresses';
import type { Abilities } from '../plan';

/** What the WinHttp object can do, whatever language it is used from. */
export const WIN_HTTP_ABILITIES = {
  address: byUnknownParser,
  repeats: false,
  unicode: false,
  givesUp: { afterS: 30, on: 'wait' },
  payloadWithGet: true,
  parts: false,
  refuses: (name) => (/^(content-length|host)$/.test(name) ? 'WinHttp computes it' : undefined),
} as const satisfies Abilities;
