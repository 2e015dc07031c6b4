// Bodies and payloads: recorded characters to bytes (bytes.ts, body.ts, payload.ts, compression.ts), what they are shown
// as (shape.ts), and what each shape holds: parts (multipart.ts), events and lines (records.ts), GraphQL (graphql.ts),
// bytes (hex.ts). Beside them what stands in values: addresses, cookies, credentials, metrics, encoded text.
export {
  type BodyKind,
  bodyAsSent,
  bodyKind,
  type DecodedBody,
  decodeBody,
  decodeText,
  readBody,
  recordedBytes,
  unpackBytes,
} from './body';
export { BodyPaths } from './body-paths';
export { base64Of, bytesFromBase64, bytesFromLatin1, bytesFromText, joinBytes, textFromBytes } from './bytes';
export { type Coding, findRemainingCoding, type Inflate } from './compression';
export {
  type CookieObstacle,
  findObstacles,
  readSentCookies,
  readSetCookie,
  type SetCookie,
} from './cookie';
export {
  type CookieManner,
  type CookieTrail,
  type CookieUse,
  defaultPath,
  followCookie,
  isForWholeHost,
  type NotSentReason,
  whyNotSent,
} from './cookie-trail';
export { encodeText } from './encode';
export { charsetOf, encodingOf, textIn } from './encoding';
export { fileNameOf } from './file-name';
export { type GraphqlCall, looksLikeGraphql, mergeDeferred, readGraphql } from './graphql';
export { BYTES_PER_LINE, hexLine } from './hex';
export { MISSING_WORDS, type MissingBody, whyNoBody } from './missing';
export { type BodyPart, boundaryOf, FORM_FIELD, readMultipart } from './multipart';
export { type PayloadContent, readPayloadContent } from './payload';
export { pictureMarkup } from './picture';
export { readEvents, readJsonLines } from './records';
export { isSecretName, isSecretValue, looksRandom } from './secret-names';
export { findSecrets, type SecretText } from './secrets';
export { readServerTiming, type ServerMetric } from './server-timing';
export { bodyShape, type Language, languageOf, type Shape } from './shape';
export { tableRows } from './table';
export { readCredentials, type Standing, standingAt } from './token';
export { type Unfolded, unfoldValue } from './unfold';
