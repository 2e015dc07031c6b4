import type { Entry } from '../entry';
import { CACHE_STATUS } from './cache-status';
import { CACHING_TERMS } from './caching';
import { CLOSE_CODES } from './close-codes';
import { CODINGS } from './codings';
import { COOKIE_ATTRIBUTES } from './cookie-attributes';
import { CROSS_ORIGIN } from './cross-origin';
import { MILESTONES } from './milestones';
import { NETWORK_ERRORS } from './network-errors';
import { OWN_WORDS } from './own-words';
import { PHASES } from './phases';
import { PROTOCOLS } from './protocols';
import { SOURCE_ENTRIES } from './sources';
import { TOKEN_CLAIMS } from './token-claims';

export { findNetworkError } from './network-errors';

/** Everything explained besides headers, statuses, methods and directives, in the order in which it is listed. */
export const GLOSSARY: readonly Entry[] = [
  ...PHASES,
  ...MILESTONES,
  ...OWN_WORDS,
  ...SOURCE_ENTRIES,
  ...CACHING_TERMS,
  ...CROSS_ORIGIN,
  ...COOKIE_ATTRIBUTES,
  ...TOKEN_CLAIMS,
  ...NETWORK_ERRORS,
  ...CLOSE_CODES,
  ...PROTOCOLS,
  ...CODINGS,
  ...CACHE_STATUS,
];
