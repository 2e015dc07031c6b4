import { isSecretName, isSecretValue } from '../content';

/** Names of what a client makes anew for each request: what keeps caches out, moments, ids of a single call. */
const OF_THE_CALL =
  /^(?:_|t|ts|cb|dt|now|rnd|rand|random|nonce|bust|cache_?(?:bust(?:er)?)|time_?stamp|sent_?at|client_?time|(?:x[-_])?(?:request|correlation|trace|span|idempotency|message)[-_]?(?:id|key)|trace_?parent)$/i;
/** A number, a random text or an id: what stands under such a name. */
const MADE = /^(?:\d+(?:\.\d+)?|[A-Za-z0-9_+/=.:-]{6,})$/;
/** A JSON Web Token (RFC 7519 3), with its scheme where it stands in a header. */
const JWT = /^(?:Bearer )?eyJ[\w-]+\.[\w-]+\.[\w-]*$/;

/**
 * Whether two values of one parameter may differ without the request being another one: both are secrets, or what a client makes
 * anew each time. Dates, ids and cursors are not: these say what is asked for.
 * @param name of a parameter or header, or the JSON path of a member
 */
export function changesByCall(name: string, captured: string, asked: string): boolean {
  const own = /([\w-]+)(?:"?\]|\[\d+\])*$/.exec(name)?.[1] ?? name;
  if (isSecretName(own) || (JWT.test(captured) && JWT.test(asked))) return true;
  if (isSecretValue(own, captured) && isSecretValue(own, asked)) return true;
  return OF_THE_CALL.test(own) && MADE.test(captured) && MADE.test(asked);
}
