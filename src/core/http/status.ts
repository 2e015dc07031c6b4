/** True for a status that leads elsewhere (RFC 9110 15.4); 304 is one of that class and leads nowhere. */
export const isRedirectStatus = (status: number | undefined): status is number =>
  status !== undefined && status >= 300 && status < 400 && status !== 304;
