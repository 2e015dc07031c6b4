// What URLs, statuses, errors and the dates in headers say by themselves, before anything is known of the capture around them.

export { acceptsCoding } from './accepted';
export {
  type AddressParts,
  isFetched,
  isLoopback,
  isNetworkPlace,
  queryOf,
  readQuery,
  splitUrl,
  takeApart,
  withoutDotSegments,
} from './address';
export { readCookieDate } from './cookie-date';
export { isAllowedByCsp } from './csp';
export { readFailReason } from './fail-reason';
export { readHttpDate } from './http-date';
export { browserType, isScriptType } from './mime';
export { formDecoded, percentDecoded, percentEncoded } from './percent';
export { isRedirectStatus } from './status';
