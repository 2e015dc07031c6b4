import { lazy, Suspense, useRef, useState } from 'react';
import { rowJson, rowsToCsv } from '#core/report';
import type { CaptureCard, ProblemAnswer } from '#core/wire';
import { formatBytes, formatMs, formatPlural } from '#core/wording';
import type { Shown } from '../capture/use-shown';
import { $place } from '../state/address';
import { exportHar } from '../state/api';
import { Button } from '../ui/Button';
import { useControl } from '../ui/use-actions';
import type { ChartRow } from '../waterfall/layout';
import { findMeasure } from '../waterfall/measures';
import { isInWindow } from '../waterfall/window';
import { type ChartColours, drawChart } from './chart-svg';
import { CsvMark, csvFile } from './csv';
import { fileName, saveFile, toPng } from './save-file';

interface TakeAwayProps {
  readonly card: CaptureCard;
  readonly shown: Shown;
  readonly rows: readonly ChartRow[];
}

const CHART_PX = 900;

// Conversion is loaded when it is first asked for.
/** What came of the last thing that was exported. */
interface Said {
  readonly text: string;
  readonly detail: string | undefined;
}

const CodeOfSelection = lazy(() => import('./CodeOfSelection'));

const TAKE_AWAY = { id: 'take-away', label: 'Export: the chart or the exchanges as a file', keys: ['x'] };

/** What can be saved, and what came of the last saving. */
function useSaving(card: CaptureCard, shown: Shown, rows: readonly ChartRow[]) {
  // The dialog stays after saving, since often one file is not all that is wanted, and covers the notices.
  const [said, setSaid] = useState<Said>();
  const { window } = $place.get();
  const inside = window === undefined ? shown.placed : shown.placed.filter((one) => isInWindow(one, window));
  const exchanges = inside.map(({ row }) => row);
  const isPart = window !== undefined;
  const saved = (name: string, content: Blob, detail?: string): void => {
    saveFile(name, content);
    setSaid({ text: `Saved ${name}, ${formatBytes(content.size)}.`, detail });
  };
  const sayProblem = ({ sentence, advice }: Pick<ProblemAnswer, 'sentence' | 'advice'>): void =>
    setSaid({ text: sentence, detail: advice });
  const save = (extension: string, type: string, text: string): void => {
    saved(fileName(card.name, extension), new Blob([text], { type }));
  };
  const draw = (part: boolean) =>
    drawChart({
      title: card.name,
      subtitle: subtitleOf(shown, part),
      rows,
      milestones: shown.arrangement.milestones,
      scale: { ...(part && window !== undefined ? window : shown.whole), widthPx: CHART_PX },
      measure: findMeasure($place.get().measure),
      colours: readColours(),
    });
  const savePng = async (part: boolean): Promise<void> => {
    const { svg, widthPx, heightPx } = draw(part);
    const png = await toPng(svg, widthPx, heightPx);
    if (png === undefined)
      sayProblem({ sentence: 'The picture could not be drawn.', advice: 'Save it as SVG instead.' });
    else saved(fileName(card.name, 'png'), png);
  };
  const saveHar = async (): Promise<void> => {
    const answer = await exportHar(
      card.id,
      exchanges.map(({ index }) => index),
    );
    if (answer.ok) saved(fileName(`${card.name} part`, 'har'), answer.value);
    else sayProblem(answer.problem);
  };
  return { said, setSaid, saved, sayProblem, save, draw, savePng, saveHar, exchanges, isPart };
}

/**
 * The chart as a picture, or the exchanges that it shows as a file. Long because it is the markup of one dialog.
 */
export function TakeAway({ card, shown, rows }: TakeAwayProps) {
  const dialog = useRef<HTMLDialogElement>(null);
  const button = useControl<HTMLButtonElement>(TAKE_AWAY, 'click');
  const [isOpen, setIsOpen] = useState(false);
  const { said, setSaid, saved, sayProblem, save, draw, savePng, saveHar, exchanges, isPart } = useSaving(
    card,
    shown,
    rows,
  );
  const counted = formatPlural(exchanges.length, 'exchange');
  const close = (): void => dialog.current?.close();
  return (
    <>
      <button
        type="button"
        ref={button}
        aria-keyshortcuts="x"
        onClick={() => {
          setSaid(undefined);
          setIsOpen(true);
          dialog.current?.showModal();
        }}
        className="text-soft underline hover:text-ink"
      >
        export
      </button>
      <dialog
        ref={dialog}
        aria-label="Export"
        className="m-auto w-130 whitespace-normal border border-ink bg-sheet p-5 text-ink backdrop:bg-shade"
      >
        <h2 className="font-bold text-base">The chart as a picture</h2>
        <p className="text-soft">{formatPlural(rows.length, 'row')}, with title, axis and legend.</p>
        <p className="mt-2 flex flex-wrap gap-2">
          {isPart ? (
            <>
              <Button onClick={() => save('svg', 'image/svg+xml', draw(true).svg)}>SVG of the part shown</Button>
              <Button onClick={() => savePng(true)}>PNG of the part shown</Button>
            </>
          ) : null}
          <Button onClick={() => save('svg', 'image/svg+xml', draw(false).svg)}>SVG of the whole load</Button>
          <Button onClick={() => savePng(false)}>PNG of the whole load</Button>
        </p>
        <h2 className="mt-5 font-bold text-base">The {counted} shown</h2>
        <p className="text-soft">The HAR file contains everything as recorded, including cookies and tokens.</p>
        <p className="mt-2 flex flex-wrap gap-2">
          <Button onClick={() => saved(fileName(card.name, 'csv'), csvFile(rowsToCsv(exchanges)))}>CSV</Button>
          <Button onClick={() => save('json', 'application/json', JSON.stringify(exchanges.map(rowJson), null, 2))}>
            JSON
          </Button>
          <Button onClick={saveHar}>HAR of these</Button>
          <CsvMark />
        </p>
        {isOpen ? (
          <Suspense fallback={<p className="mt-5 text-soft">Loading</p>}>
            <CodeOfSelection
              captureId={card.id}
              indexes={exchanges.map(({ index }) => index)}
              onSave={saved}
              onProblem={sayProblem}
            />
          </Suspense>
        ) : null}
        <p className="mt-5 flex flex-wrap items-center justify-between gap-3">
          <span role="status" className="min-w-0 flex-1 [overflow-wrap:anywhere]">
            {said === undefined ? null : <b className="font-semibold">{said.text}</b>}{' '}
            {said?.detail === undefined ? null : <span className="text-soft">{said.detail}</span>}
          </span>
          <Button onClick={close} hint="Esc">
            Close
          </Button>
        </p>
      </dialog>
    </>
  );
}

function subtitleOf(shown: Shown, isPart: boolean): string {
  const { window, filter } = $place.get();
  const of = shown.arrangement.placed.length;
  const counted =
    shown.placed.length === of
      ? formatPlural(of, 'exchange')
      : `${shown.placed.length} of ${formatPlural(of, 'exchange')}`;
  const { fromMs, toMs } = isPart && window !== undefined ? window : shown.whole;
  return `${counted}${filter === '' ? '' : `, filtered by ${filter}`}; ${formatMs(fromMs)} to ${formatMs(toMs)}`;
}

/** The colours of the look that is on screen. */
function readColours(): ChartColours {
  // Colours that follow the look are resolved by the browser only where they are used.
  const probe = document.createElement('span');
  document.body.append(probe);
  const of = (name: string): string => {
    probe.style.color = `var(--${name})`;
    return getComputedStyle(probe).color;
  };
  const colours = {
    paper: of('paper'),
    ink: of('ink'),
    soft: of('soft'),
    grid: of('grid'),
    outcome: { plain: of('net'), cached: of('cached'), redirect: of('redirect'), failed: of('failed') },
  };
  probe.remove();
  return colours;
}
