import { type CookieObstacle, findObstacles, readSentCookies, readSetCookie, type SetCookie } from '#core/content';
import type { NameValue } from '#core/model';
import { formatInstant, formatSpan, formatZone } from '#core/wording';
import { termOf } from '../sift/SiftValue';
import { FieldList } from './FieldList';

interface CookiesSectionProps {
  readonly request: readonly NameValue[];
  readonly response: readonly NameValue[];
  readonly url: string;
  /** When the exchange started, in ms since 1970. */
  readonly at: number | undefined;
  readonly zoneMinutes: number;
}

const valuesOf = (headers: readonly NameValue[], name: string): string[] =>
  headers.filter((header) => header.name.toLowerCase() === name).map(({ value }) => value);

/** The cookies that were sent, and those that the answer set: how long each holds, and what stands against it. */
export function CookiesSection({ request, response, url, at, zoneMinutes }: CookiesSectionProps) {
  const sent = valuesOf(request, 'cookie').flatMap(readSentCookies);
  const set = valuesOf(response, 'set-cookie').flatMap((value) => readSetCookie(value, at) ?? []);
  if (sent.length === 0 && set.length === 0) return <p className="text-soft">No cookie was sent, and none was set.</p>;
  return (
    <>
      {sent.length === 0 ? (
        <p className="text-soft">No cookie was sent.</p>
      ) : (
        <>
          <h4 className="font-semibold text-soft">Sent</h4>
          <FieldList
            fields={sent}
            isSecret={() => true}
            termFor={({ name, value }) => (name === '' ? undefined : termOf({ name: 'cookie', key: name }, value))}
          />
        </>
      )}
      {set.map((cookie, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: names repeat, and the list never changes its order.
        <div key={`${place} ${cookie.name}`} className="mt-3">
          <h4 className="font-semibold text-soft">Set</h4>
          <FieldList fields={[cookie]} isSecret={() => true} />
          <p className="mt-0.5 text-[13px]">{tellCookie(cookie, at, zoneMinutes)}</p>
          {findObstacles(cookie, url, at).map((obstacle) => (
            <p key={obstacle} className="text-[13px] text-failed">
              {OBSTACLE_WORDS[obstacle]}
            </p>
          ))}
        </div>
      ))}
    </>
  );
}

function tellCookie(cookie: SetCookie, at: number | undefined, zoneMinutes: number): string {
  const whom = cookie.domain === undefined ? 'this host alone' : `${cookie.domain} and all hosts below it`;
  const path = cookie.path === undefined || cookie.path === '/' ? '' : `, below ${cookie.path}`;
  const reading = cookie.isHttpOnly ? 'Scripts cannot read it' : 'Scripts can read it';
  const way = cookie.isSecure ? 'it goes over https only' : 'it goes over http as well';
  const site =
    cookie.sameSite === undefined
      ? 'other sites’ pages make browsers send it only as their default allows'
      : (SAME_SITE_WORDS[cookie.sameSite.toLowerCase()] ?? `its SameSite "${cookie.sameSite}" means nothing`);
  return `For ${whom}${path}. ${endWords(cookie, at, zoneMinutes)} ${reading}, ${way}; ${site}.`;
}

const SAME_SITE_WORDS: Readonly<Record<string, string>> = {
  strict: 'requests from other sites never carry it',
  lax: 'of other sites’ requests only navigations carry it',
  none: 'requests from other sites carry it too',
};

function endWords({ endsAt }: SetCookie, at: number | undefined, zoneMinutes: number): string {
  if (endsAt === 'session') return 'It ends with the browser’s session.';
  if (endsAt === undefined) return 'When it ends is unknown.';
  const until = `${formatInstant(endsAt, zoneMinutes)} ${formatZone(zoneMinutes)}`;
  if (at === undefined) return `It ends ${until}.`;
  return endsAt <= at
    ? `It ended ${until}: this takes it away.`
    : `It holds ${formatSpan(endsAt - at)}, until ${until}.`;
}

const OBSTACLE_WORDS: Record<CookieObstacle, string> = {
  'no-name': 'It has neither name nor value: browsers drop it.',
  'insecure-page': 'It is Secure but was set over http: browsers drop it.',
  'other-domain': 'Its Domain is not the host’s own or one above it: browsers drop it.',
  'same-site-none-insecure': 'SameSite=None without Secure: browsers drop it.',
  'prefix-broken':
    'Its name begins with __Host- or __Secure-, and its attributes break that promise: browsers drop it.',
  'already-over': 'It is over already: browsers delete it, so it is not sent back.',
};
