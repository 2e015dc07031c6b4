/** A proxy by its parts, for clients that do not take its URL. */
export interface ProxyParts {
  /** In lower case. */
  readonly scheme: string;
  /** An IPv6 address without its brackets. */
  readonly host: string;
  readonly port: string;
  /** Decoded; undefined where the URL has none. */
  readonly credentials: { readonly user: string; readonly password: string } | undefined;
}

const PROXY = /^(?:([a-z0-9+.-]+):\/\/)?(?:([^@/]*)@)?(?:\[([^\]]+)\]|([^:/]+))(?::(\d+))?/i;

/** Clients that take the URL of a proxy want its scheme. */
export const proxyUrl = (proxy: string): string => (/^[a-z0-9+.-]+:\/\//i.test(proxy) ? proxy : `http://${proxy}`);

export function proxyParts(proxy: string): ProxyParts {
  const [, scheme = 'http', userinfo, address, host = address ?? proxy, port = '80'] = PROXY.exec(proxy) ?? [];
  const [user = '', ...password] = (userinfo ?? '').split(':');
  const credentials = { user: decoded(user), password: decoded(password.join(':')) };
  return { scheme: scheme.toLowerCase(), host, port, credentials: userinfo === undefined ? undefined : credentials };
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** As WinHttp takes a proxy, and URLs have one. */
export const hostPort = ({ host, port }: ProxyParts): string => `${host.includes(':') ? `[${host}]` : host}:${port}`;
