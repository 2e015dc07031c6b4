/** Longer some browsers keep no permission, others up to a day. */
export const MOST_PERMISSION_SECONDS = 7200;
/** What browsers take where nothing says for how long, or what does is no number (Fetch 4.9). */
const OWN_SECONDS = 5;

/** How long browsers keep the permission that a preflight got, by its Access-Control-Max-Age, in seconds. */
export function permissionSeconds(maxAge: string | undefined): number {
  const written = maxAge?.trim() ?? '';
  return /^[-+]?\d+$/.test(written) ? Math.max(0, Number(written)) : OWN_SECONDS;
}
