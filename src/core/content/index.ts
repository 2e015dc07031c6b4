// Bodies and payloads: recorded characters to bytes (bytes.ts, body.ts, payload.ts), and what is still packed
// (compression.ts).
export { type BodyKind, bodyKind, type DecodedBody, decodeBody, decodeText, readBody } from './body';
export { bytesFromText } from './bytes';
export type { Inflate } from './compression';
export { type PayloadContent, readPayloadContent } from './payload';
