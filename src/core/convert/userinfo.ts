import { base64Of, bytesFromText } from '../content';
import { percentDecoded } from '../http';

/**
 * Takes user and password out of an address: clients never send them in it, but as Basic credentials (RFC 3986 3.2.1,
 * RFC 7617 2), which are given as the value of Authorization.
 * @param fill puts values in the place of variables: their marks cannot stand in Base64
 */
export function takeUserinfo(
  url: string,
  fill: (text: string) => string = (text) => text,
): { readonly url: string; readonly authorization: string | undefined } {
  const match = /^([a-z][a-z0-9+.-]*:\/\/)([^/?#]*)@([^/?#@]*)/i.exec(url);
  if (match === null) return { url, authorization: undefined };
  const [whole, scheme = '', userinfo = '', host = ''] = match;
  const [user = '', ...password] = userinfo.split(':');
  const credentials = fill(`${percentDecoded(user)}:${percentDecoded(password.join(':'))}`);
  return {
    url: scheme + host + url.slice(whole.length),
    authorization: userinfo === '' ? undefined : basicCredentials(credentials),
  };
}

/** The value of Authorization for "user:password" (RFC 7617 2). */
export const basicCredentials = (userAndPassword: string): string =>
  `Basic ${base64Of(bytesFromText(userAndPassword))}`;
