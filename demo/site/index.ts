// The stand-in site Cumbrera: a real server on loopback for all its made-up hosts.
export { type LoggedRequest, type RunningSite, startSite } from './server';
