import { useState } from 'react';
import { KIND_WORDS, type KindCount, type SecretKind } from '#core/redact';
import type { ListedSecret } from '#core/wire';
import { formatPlural } from '#core/wording';

export interface SecretActions {
  /** The secret that is looked at, by its value. */
  readonly current: string | undefined;
  readonly onChoose: (secret: ListedSecret, place: number | undefined) => void;
  readonly onSwitch: (secret: ListedSecret, isOn: boolean) => void;
  readonly onSwitchKind: (kind: SecretKind, isOn: boolean) => void;
}

interface SecretListProps extends SecretActions {
  /** The first of them; `counts` counts all. */
  readonly secrets: readonly ListedSecret[];
  readonly counts: readonly KindCount[];
  /** What was inked out, or what was left. */
  readonly isOut: boolean;
  /** What is said where there is none. */
  readonly none: string;
}

/** Secrets by kind: how many, where, and the switch of each. */
export function SecretList({ secrets, counts, isOut, none, ...actions }: SecretListProps) {
  if (counts.length === 0) return <p className="text-soft">{none}</p>;
  return counts.map((count) => (
    <KindGroup
      key={count.kind}
      count={count}
      secrets={secrets.filter(({ kind }) => kind === count.kind)}
      isOut={isOut}
      {...actions}
    />
  ));
}

/** More are shown when they are asked for. */
const FIRST_SHOWN = 12;

interface KindGroupProps extends SecretActions {
  readonly count: KindCount;
  readonly secrets: readonly ListedSecret[];
  readonly isOut: boolean;
}

function KindGroup({ count: { kind, values, places }, secrets, isOut, ...actions }: KindGroupProps) {
  const [isLong, setIsLong] = useState(false);
  const shown = isLong ? secrets : secrets.slice(0, FIRST_SHOWN);
  return (
    <section aria-label={KIND_WORDS[kind]} className="mt-3 first:mt-0">
      <h3 className="flex items-baseline gap-2 border-line border-b pb-0.5">
        <b>{KIND_WORDS[kind]}</b>
        <span className="text-soft">
          {formatPlural(values, 'value')}
          {isOut ? ` in ${formatPlural(places, 'place')}` : ''}
        </span>
        {kind === 'own' ? null : (
          <SwitchButton
            isOut={isOut}
            label={`${isOut ? 'Leave' : 'Ink out'} all ${KIND_WORDS[kind]}`}
            onClick={() => actions.onSwitchKind(kind, !isOut)}
          >
            {isOut ? 'leave all' : 'ink out all'}
          </SwitchButton>
        )}
      </h3>
      <ul>
        {shown.map((secret) => (
          <SecretItem key={secret.value} secret={secret} isOut={isOut} {...actions} />
        ))}
      </ul>
      {secrets.length > shown.length ? (
        <button type="button" className="mt-1 text-soft underline hover:text-ink" onClick={() => setIsLong(true)}>
          show {formatPlural(values - shown.length, 'more value')}
        </button>
      ) : null}
      {isLong && values > secrets.length ? (
        <p className="mt-1 text-soft">{formatPlural(values - secrets.length, 'more value')} are not listed.</p>
      ) : null}
    </section>
  );
}

interface SwitchButtonProps {
  readonly isOut: boolean;
  readonly label: string;
  readonly onClick: () => void;
  readonly children: string;
}

function SwitchButton({ label, onClick, children }: SwitchButtonProps) {
  return (
    <button
      type="button"
      aria-label={label}
      onClick={onClick}
      className="ml-auto shrink-0 text-[12px] text-soft underline hover:text-ink"
    >
      {children}
    </button>
  );
}

/** So many exchanges are named; the others are counted. */
const PLACES_SHOWN = 6;

interface SecretItemProps extends SecretActions {
  readonly secret: ListedSecret;
  readonly isOut: boolean;
}

function SecretItem({ secret, isOut, current, onChoose, onSwitch }: SecretItemProps) {
  const { value, name, by, count, places, isEverywhere } = secret;
  const isCurrent = value === current;
  return (
    <li
      className={`border-grid border-b py-1 pl-2 ${isCurrent ? 'border-l-3 border-l-route' : 'border-l-3 border-l-transparent'}`}
    >
      <div className="flex items-baseline gap-2">
        <button
          type="button"
          aria-current={isCurrent}
          onClick={() => onChoose(secret, places[0])}
          title={value.length > 200 ? `${value.slice(0, 200)}…` : value}
          className="min-w-0 flex-1 truncate text-left font-mono text-[12.5px] hover:underline"
        >
          {value}
        </button>
        <SwitchButton
          isOut={isOut}
          label={`${isOut ? 'Leave' : 'Ink out'} ${nameOf(secret)}`}
          onClick={() => onSwitch(secret, !isOut)}
        >
          {isOut ? 'leave' : 'ink out'}
        </SwitchButton>
      </div>
      <p className="flex flex-wrap gap-x-2 text-[12px] text-soft">
        <span>{name === '' ? BY_WORDS[by] : name}</span>
        {isOut ? <span>{formatPlural(count, 'place')}</span> : null}
        {places.slice(0, PLACES_SHOWN).map((place) => (
          <button
            key={place}
            type="button"
            className="font-mono underline hover:text-ink"
            onClick={() => onChoose(secret, place)}
          >
            #{place}
          </button>
        ))}
        {places.length > PLACES_SHOWN ? <span>and {places.length - PLACES_SHOWN} more</span> : null}
      </p>
      {isOut && !isEverywhere ? (
        <p className="text-[12px]">
          A short or common word: inked out only where it is a secret.{' '}
          <button type="button" className="underline" onClick={() => onSwitch(secret, true)}>
            Ink it out everywhere
          </button>
        </p>
      ) : null}
    </li>
  );
}

const BY_WORDS: Record<ListedSecret['by'], string> = {
  place: 'by its place',
  shape: 'by its shape',
  own: 'your own word',
  pointed: 'pointed at',
};

/** Short, so that it can be spoken. */
const nameOf = ({ value, name }: ListedSecret): string =>
  `${name} ${value.length > 24 ? `${value.slice(0, 24)}…` : value}`.trim();
