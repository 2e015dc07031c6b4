// Bodies and payloads: recorded characters to bytes (bytes.ts, body.ts, payload.ts), and what is still packed
// (compression.ts), and the paths of places in JSON (json-path.ts).
export { type BodyKind, bodyKind, type DecodedBody, decodeBody, decodeText, readBody, unpackBytes } from './body';
export { bytesFromText } from './bytes';
export type { Inflate } from './compression';
export { type CookieObstacle, findObstacles, readSentCookies, readSetCookie, type SetCookie } from './cookie';
export { layOutJson } from './json-layout';
export { jsonPathsAt } from './json-path';
export { type PayloadContent, readPayloadContent } from './payload';
export { readServerTiming, type ServerMetric } from './server-timing';
export { readCredentials, type Standing, standingAt } from './token';
