import type { ExchangeRow } from '#core/analysis';
import type { Measure, Trial } from '#core/wire';
import { formatMs } from '#core/wording';
import { useOneTabStop } from '../state/focus';
import { StatusMark } from '../ui/status';
import type { Placed } from '../waterfall/arrange';
import { Stairs } from '../waterfall/Strip';

interface TrialStripsProps {
  readonly trials: readonly Trial[];
  readonly captured: ExchangeRow | undefined;
  /** The trial that is looked at. */
  readonly current: number | undefined;
  /** What it is held against. */
  readonly measure: Measure;
  readonly onChoose: (number: number) => void;
  readonly onMeasure: (measure: Measure) => void;
}

const STAIRS_PX = 190;

/** The trials as strips on one axis from the moment that each began, the newest first; the captured exchange last. */
export function TrialStrips({ trials, captured, current, measure, onChoose, onMeasure }: TrialStripsProps) {
  const list = useOneTabStop<HTMLUListElement>('button[data-trial]');
  const longest = Math.max(1, ...trials.map(({ row }) => row.timeMs ?? 0), captured?.timeMs ?? 0);
  const scale = { fromMs: 0, toMs: longest * 1.1, widthPx: STAIRS_PX };
  const placed = (row: ExchangeRow): Placed => ({ row, startMs: 0, endMs: row.timeMs });
  return (
    <ul ref={list} aria-label="Trials, the newest first" className="max-h-52 overflow-y-auto border-line border-t">
      {trials.map(({ number, row, sentence, changed, note }) => (
        <li
          key={number}
          className={`flex items-center gap-2 border-grid border-b ${number === current ? 'current' : ''}`}
        >
          <button
            type="button"
            data-trial={number}
            aria-current={number === current}
            aria-label={`Trial ${number}: ${sentence} ${changed}. ${note}`}
            title={`${sentence} ${row.timeMs === undefined ? '' : formatMs(row.timeMs)}`}
            onClick={() => onChoose(number)}
            className="flex min-w-0 flex-1 items-center gap-2 text-left"
          >
            <span className="w-6 shrink-0 text-right text-[11px] text-soft">{number}</span>
            <StatusCell row={row} />
            <Stairs placed={placed(row)} scale={scale} lastMs={longest + 1} />
            <span className="min-w-0 flex-1 truncate text-[12px]">{note === '' ? changed : note}</span>
          </button>
          <MeasureButton
            isMeasure={measure.type === 'trial' && measure.number === number}
            onClick={() => onMeasure({ type: 'trial', number })}
            of={`trial ${number}`}
          />
        </li>
      ))}
      {captured === undefined ? null : (
        <li className="flex items-center gap-2 border-grid border-b text-soft">
          <span className="w-6 shrink-0 text-right text-[11px]">#{captured.index}</span>
          <StatusCell row={captured} />
          <Stairs placed={placed(captured)} scale={scale} lastMs={longest + 1} />
          <span className="min-w-0 flex-1 truncate text-[12px]">the captured exchange</span>
          <MeasureButton
            isMeasure={measure.type === 'captured'}
            onClick={() => onMeasure({ type: 'captured' })}
            of="the captured exchange"
          />
        </li>
      )}
    </ul>
  );
}

/** A trial's status, marked where it failed or led elsewhere. */
export function StatusCell({ row }: { readonly row: ExchangeRow }) {
  const word = row.status === undefined ? 'none' : String(row.status);
  const isPlain = row.failure === undefined && row.errorInside === undefined && (row.status ?? 0) < 300;
  return (
    <span className="w-11 shrink-0 text-center">
      {isPlain ? (
        <span className="font-bold font-mono text-[11px] text-net">{word}</span>
      ) : (
        <StatusMark row={row} word={word} />
      )}
    </span>
  );
}

function MeasureButton({
  isMeasure,
  onClick,
  of,
}: {
  readonly isMeasure: boolean;
  readonly onClick: () => void;
  readonly of: string;
}) {
  return (
    <button
      type="button"
      aria-pressed={isMeasure}
      aria-label={`Hold against ${of}`}
      onClick={onClick}
      className={`shrink-0 pr-2 text-[11px] ${isMeasure ? 'font-semibold' : 'text-soft underline hover:text-ink'}`}
    >
      {isMeasure ? 'the measure' : 'measure'}
    </button>
  );
}
