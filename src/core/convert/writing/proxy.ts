import type { Plan } from '../plan';
import { type ProxyParts, proxyParts } from '../proxy';
import { unsupported } from '../target';

/**
 * The proxy of a plan for a client that takes its host and port, as one of HTTP: warned of where it is another one.
 * @param instead what to do about its credentials, of a client that is not given any
 */
export function httpProxyOf(plan: Plan, instead?: string): ProxyParts | undefined {
  const { proxy } = plan.options;
  if (proxy === undefined) return undefined;
  const parts = proxyParts(proxy);
  if (parts.scheme !== 'http')
    plan.warnings.push(unsupported(`A proxy of ${parts.scheme}`, 'it is taken for one of http'));
  if (parts.credentials !== undefined && instead !== undefined) warnOfCredentials(plan, instead);
  return parts;
}

/** What WinHttp has for them. */
export const WITH_SET_CREDENTIALS = 'call SetCredentials with 1, for the proxy, behind Open';

/** Says that a client does not take the credentials of its proxy's URL, where that has some. */
export function warnOfProxyCredentials(plan: Plan, instead: string): void {
  const { proxy } = plan.options;
  if (proxy !== undefined && proxyParts(proxy).credentials !== undefined) warnOfCredentials(plan, instead);
}

const warnOfCredentials = (plan: Plan, instead: string): void =>
  void plan.warnings.push(unsupported('To give the proxy the credentials of its URL', instead));
