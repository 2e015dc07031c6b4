import { useStore } from '@nanostores/react';
import { savedShare } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { formatBytes, formatCount, formatExactBytes, formatInstant, formatShare, formatZone } from '#core/wording';
import { offsetOf } from '../frame/ZoneChooser';
import { $place } from '../state/address';
import { Miniature } from './Miniature';

interface ShelfCardProps {
  readonly card: CaptureCard;
  readonly onDelete: () => void;
}

/** One capture: its miniature, its sentence, whence it comes, what it weighs, and what is wrong with it. */
export function ShelfCard({ card, onDelete }: ShelfCardProps) {
  const { overview } = card;
  const { tally } = overview;
  const [worst] = overview.condition;
  return (
    <li className="flex items-stretch border border-line bg-sheet hover:border-soft" data-capture={card.name}>
      <a
        href={`/c/${card.id}/waterfall`}
        className="grid min-w-0 flex-1 grid-cols-[240px_1fr_auto] items-center gap-5 p-4"
      >
        <Miniature slots={overview.miniature} />
        <div className="min-w-0">
          <h2 className="truncate font-bold text-base">{card.name}</h2>
          <p className="truncate">{overview.sentence}</p>
          <p className="truncate text-[13px] text-soft">
            <Recorded card={card} />
          </p>
          {worst === undefined ? null : (
            <p className="mt-1 truncate text-[13px]" title={worst.advice}>
              <span className="mr-1 font-semibold">Condition:</span>
              {worst.sentence}
              {overview.condition.length > 1 ? ` ${overview.condition.length - 1} more.` : ''}
            </p>
          )}
        </div>
        <dl className="w-42 text-[13px]">
          <Figure value={formatCount(tally.exchanges)} word="exchanges" />
          <Figure value={formatBytes(tally.wireBytes)} exact={formatExactBytes(tally.wireBytes)} word="over the wire" />
          <Figure value={formatBytes(tally.bodyBytes)} exact={formatExactBytes(tally.bodyBytes)} word="once decoded" />
          <Figure value={formatShare(savedShare(tally))} word="from cache" />
        </dl>
      </a>
      <button
        type="button"
        onClick={onDelete}
        aria-label={`Delete ${card.name}`}
        className="border-line border-l px-4 text-[13px] text-soft hover:text-failed"
      >
        Delete
      </button>
    </li>
  );
}

interface FigureProps {
  readonly value: string;
  readonly exact?: string;
  readonly word: string;
}

function Figure({ value, exact, word }: FigureProps) {
  return (
    <div className="flex flex-row-reverse justify-end gap-2">
      <dt className="w-24 whitespace-nowrap text-soft">{word}</dt>
      <dd className="w-14 text-right font-bold" title={exact}>
        {value}
      </dd>
    </div>
  );
}

function Recorded({ card }: { readonly card: CaptureCard }) {
  const { zone } = useStore($place);
  const at = card.overview.recordedAt;
  const offset = offsetOf(zone, card.utcOffsetMinutes, at ?? 0);
  const when = at === undefined ? 'at an unknown time' : `${formatInstant(at, offset)} ${formatZone(offset)}`;
  const by = [card.recorder, card.browser].filter((program) => program !== undefined).join(', ');
  return [`${card.overview.host ?? 'no host'}`, `recorded ${when}`, by === '' ? 'by an unknown recorder' : `by ${by}`]
    .filter(Boolean)
    .join(', ');
}
