import { useCallback } from 'react';
import {
  type CookieObstacle,
  type CookieTrail,
  defaultPath,
  findObstacles,
  type NotSentReason,
  readSentCookies,
  readSetCookie,
  type SetCookie,
} from '#core/content';
import { splitUrl } from '#core/http';
import type { NameValue } from '#core/model';
import { formatInstant, formatPlural, formatSpan, formatZone } from '#core/wording';
import { termOf } from '../filter/FilterValue';
import { goTo } from '../state/address';
import { fetchCookieTrails } from '../state/api';
import { useFetched } from '../ui/use-fetched';
import { FieldList } from './FieldList';

interface CookiesSectionProps {
  readonly captureId: string;
  readonly index: number;
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
export function CookiesSection({ captureId, index, request, response, url, at, zoneMinutes }: CookiesSectionProps) {
  const sent = valuesOf(request, 'cookie').flatMap(readSentCookies);
  const set = valuesOf(response, 'set-cookie').flatMap((value) => readSetCookie(value, at) ?? []);
  if (sent.length === 0 && set.length === 0)
    return <p className="text-soft">No cookie was recorded, neither sent nor set.</p>;
  return (
    <>
      {sent.length === 0 ? (
        <p className="text-soft">No cookie was recorded as sent.</p>
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
          <FieldList fields={[cookie.name === '' ? { ...cookie, name: 'no name' } : cookie]} isSecret={() => true} />
          <p className="mt-0.5 text-[13px]">{tellCookie(cookie, url, at, zoneMinutes)}</p>
          {findObstacles(cookie, url, at).map((obstacle) => (
            <p key={obstacle} className="text-[13px] text-failed">
              {OBSTACLE_WORDS[obstacle]}
            </p>
          ))}
        </div>
      ))}
      <CookieTrails
        captureId={captureId}
        index={index}
        names={[...new Set([...sent, ...set].map(({ name }) => name).filter((name) => name !== ''))].slice(0, FOLLOWED)}
      />
    </>
  );
}

/** More cookies than anybody follows at once. */
const FOLLOWED = 50;
const SHOWN_STEPS = 12;

interface CookieTrailsProps {
  readonly captureId: string;
  readonly index: number;
  readonly names: readonly string[];
}

/** Where each cookie was first seen, where it changed, and whether later requests carried it. */
function CookieTrails({ captureId, index, names }: CookieTrailsProps) {
  const joined = names.join('\n');
  const fetchIt = useCallback(
    () => fetchCookieTrails(captureId, index, joined.split('\n')),
    [captureId, index, joined],
  );
  const [fetched] = useFetched(fetchIt);
  return (
    <>
      <h4 className="mt-3 font-semibold text-soft">History in this capture</h4>
      {fetched.state === 'loading' ? <p className="text-soft">Loading the history</p> : null}
      {fetched.state === 'failed' ? <p className="text-failed">{fetched.problem.sentence}</p> : null}
      {fetched.state === 'there' ? fetched.value.map((trail) => <Trail key={trail.name} trail={trail} />) : null}
    </>
  );
}

const STEP_WORDS = { sent: 'sent', set: 'set', deleted: 'deleted' } as const;

function Trail({ trail: { name, steps, sentLater, missedBy, neverSent } }: { readonly trail: CookieTrail }) {
  const [first, ...changes] = steps;
  return (
    <p data-cookie-trail={name} className="mb-1 text-[13px]">
      <b className="font-mono font-semibold">{name}</b>{' '}
      {first === undefined ? null : (
        <>
          first {STEP_WORDS[first.how]} by <ExchangeLink index={first.index} />
          {changes.slice(0, SHOWN_STEPS).map(({ index, how }) => (
            <span key={`${index} ${how}`}>
              , {how === 'deleted' ? 'deleted' : 'changed'} by <ExchangeLink index={index} />
            </span>
          ))}
          {changes.length > SHOWN_STEPS ? `, and changed ${changes.length - SHOWN_STEPS} times more` : ''}.{' '}
        </>
      )}
      {neverSent === undefined ? `${formatPlural(sentLater, 'later request')} carried it.` : NEVER_WORDS[neverSent]}
      {missedBy === undefined || neverSent !== undefined ? null : (
        <>
          {' '}
          <ExchangeLink index={missedBy.index} /> did not: {MISSED_WORDS[missedBy.reason]}.
        </>
      )}
    </p>
  );
}

const ExchangeLink = ({ index }: { readonly index: number }) => (
  <button
    type="button"
    className="underline hover:text-route"
    onClick={() => goTo({ exchange: index, lane: undefined, isOpen: true, hit: undefined })}
  >
    #{index}
  </button>
);

const MISSED_WORDS: Record<NotSentReason, string> = {
  dropped: 'browsers reject it, as said above',
  'other-host': 'its host does not match the cookie’s',
  'other-path': 'its path is not below the cookie’s',
  over: 'it had expired',
  'plain-http': 'it went over http, and the cookie is Secure',
  'other-site': 'it went from one site to another, which its SameSite does not allow',
  'without-credentials': 'it carried no cookie at all, as requests made without credentials do not',
  unknown: 'the capture does not tell why',
};

const NEVER_WORDS: Record<NotSentReason | 'no-later-request', string> = {
  dropped: 'No later request carried it: browsers reject it, as said above.',
  'other-host': 'No later request went to a host that it matches.',
  'other-path': 'No later request carried it: none went to a path below the cookie’s.',
  over: 'No later request carried it: it had expired.',
  'plain-http': 'No later request carried it: they went over http, and it is Secure.',
  'other-site': 'No later request carried it: they went from one site to another, which its SameSite does not allow.',
  'without-credentials':
    'No later request carried it: those to its host carried no cookie at all, as requests made without credentials do not.',
  unknown: 'No later request carried it, and the capture does not tell why.',
  'no-later-request': 'No later request matched its domain and path.',
};

function tellCookie(cookie: SetCookie, url: string, at: number | undefined, zoneMinutes: number): string {
  const whom = cookie.domain === undefined ? 'this host alone' : `${cookie.domain} and all hosts below it`;
  const below = cookie.path ?? defaultPath(splitUrl(url)?.path || '/');
  const path = below === '/' ? '' : `, below ${below}`;
  const reading = cookie.isHttpOnly ? 'Scripts cannot read it' : 'Scripts can read it';
  const way = cookie.isSecure ? 'sent over https only' : 'sent over http as well';
  const site =
    cookie.sameSite === undefined
      ? 'other sites’ pages make browsers send it only as their default allows'
      : (SAME_SITE_WORDS[cookie.sameSite.toLowerCase()] ?? `its SameSite "${cookie.sameSite}" is not a known value`);
  return `For ${whom}${path}. ${endWords(cookie, at, zoneMinutes)} ${reading}, ${way}; ${site}.${cookie.isPartitioned ? ' Partitioned: kept apart for each site whose pages embed it.' : ''}`;
}

const SAME_SITE_WORDS: Readonly<Record<string, string>> = {
  strict: 'SameSite=Strict: never sent with cross-site requests',
  lax: 'SameSite=Lax: sent with cross-site requests on top-level navigations only',
  none: 'SameSite=None: sent with cross-site requests too',
};

function endWords({ endsAt }: SetCookie, at: number | undefined, zoneMinutes: number): string {
  if (endsAt === 'session') return 'Expires with the browser’s session.';
  if (endsAt === undefined) return 'Expiry unknown.';
  const until = `${formatInstant(endsAt, zoneMinutes)} ${formatZone(zoneMinutes)}`;
  if (at === undefined) return `Expires ${until}.`;
  return endsAt <= at ? `Expired ${until}: this deletes it.` : `Valid for ${formatSpan(endsAt - at)}, until ${until}.`;
}

const OBSTACLE_WORDS: Record<CookieObstacle, string> = {
  'no-name': 'It has neither name nor value: browsers reject it.',
  'insecure-page': 'It is Secure but was set over http: browsers reject it.',
  'other-domain': 'Its Domain is not the host’s own or one above it: browsers reject it.',
  'public-suffix': 'Its Domain is a top-level domain, which is nobody’s own: browsers reject it.',
  'same-site-none-insecure': 'SameSite=None without Secure: browsers reject it.',
  'partitioned-insecure': 'Partitioned without Secure: browsers reject it.',
  'prefix-broken':
    'It begins with __Host-, __Secure- or __Http-, which requires attributes that it does not have: browsers reject it.',
  'too-large': 'Name and value together are longer than 4,096 bytes: browsers reject it.',
  'control-character': 'A control character stands in it: browsers reject it.',
  'already-over': 'Already expired: browsers delete it, so it is not sent back.',
};
