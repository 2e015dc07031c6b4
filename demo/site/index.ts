// The stand-in site Cumbrera: a real server on loopback for all its made-up hosts.
export { type LoggedRequest, type RunningSite, type SiteOptions, startSite } from './server';
export type { SiteAnswer, SiteRequest } from './types';
