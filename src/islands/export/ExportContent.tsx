import { lazy, Suspense, useMemo } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { rowJson, rowsToCsv, toCsv } from '#core/report';
import type { CaptureCard, ProblemAnswer } from '#core/wire';
import { formatBytes, formatMs, formatPlural } from '#core/wording';
import type { Shown } from '../capture/use-shown';
import { $place } from '../state/address';
import { exportBodies, exportHar } from '../state/api';
import { Button } from '../ui/Button';
import { copyText } from '../ui/copy';
import { tableAsText } from '../ui/table-text';
import { findMeasure } from '../waterfall/measures';
import { drawChart } from './chart-svg';
import { readColours } from './colours';
import { CsvMark, csvFile } from './csv';
import type { ExportChart, ExportTable, Said } from './exported';
import { fileName, saveFile, toPng } from './save-file';

// Conversion is loaded when it is first asked for.
const CodeOfSelection = lazy(() => import('./CodeOfSelection'));

/** What saving does, whatever is saved. */
interface Saving {
  readonly card: CaptureCard;
  readonly onSaid: (said: Said) => void;
  readonly saved: (name: string, content: Blob, detail?: string) => void;
  readonly sayProblem: (problem: Pick<ProblemAnswer, 'sentence' | 'advice'>) => void;
}

const savingOf = (card: CaptureCard, onSaid: (said: Said) => void): Saving => ({
  card,
  onSaid,
  saved: (name, content, detail) => {
    saveFile(name, content);
    onSaid({ text: `Saved ${name}, ${formatBytes(content.size)}.`, detail });
  },
  sayProblem: ({ sentence, advice }) => onSaid({ text: sentence, detail: advice }),
});

interface ExportContentProps {
  readonly card: CaptureCard;
  readonly exchanges: readonly ExchangeRow[];
  readonly tables: readonly ExportTable[];
  readonly chart: ExportChart | undefined;
  readonly onSaid: (said: Said) => void;
}

/** Everything that there is to save. */
export default function ExportContent({ card, exchanges, tables, chart, onSaid }: ExportContentProps) {
  const saving = useMemo(() => savingOf(card, onSaid), [card, onSaid]);
  return (
    <div className="space-y-5 text-[14px]">
      {chart === undefined ? null : <ChartExport {...chart} saving={saving} />}
      {tables.map((table) => (
        <TableExport key={table.what} table={table} saving={saving} />
      ))}
      <ExchangesExport exchanges={exchanges} saving={saving} />
      <Suspense fallback={<p>Loading</p>}>
        <CodeOfSelection
          captureId={card.id}
          indexes={exchanges.map(({ index }) => index)}
          onSave={saving.saved}
          onProblem={saving.sayProblem}
        />
      </Suspense>
    </div>
  );
}

const CHART_PX = 900;

function ChartExport({ shown, rows, saving: { card, saved, sayProblem } }: ExportChart & { readonly saving: Saving }) {
  const { window } = $place.get();
  const draw = (isPart: boolean) =>
    drawChart({
      title: card.name,
      subtitle: subtitleOf(shown, isPart),
      rows,
      milestones: shown.arrangement.milestones,
      scale: { ...(isPart && window !== undefined ? window : shown.whole), widthPx: CHART_PX },
      measure: findMeasure($place.get().measure),
      colours: readColours(),
    });
  const saveSvg = (isPart: boolean): void =>
    saved(fileName(card.name, 'svg'), new Blob([draw(isPart).svg], { type: 'image/svg+xml' }));
  const savePng = async (isPart: boolean): Promise<void> => {
    const { svg, widthPx, heightPx } = draw(isPart);
    const png = await toPng(svg, widthPx, heightPx);
    if (png === undefined)
      sayProblem({ sentence: 'The picture could not be drawn.', advice: 'Save it as SVG instead.' });
    else saved(fileName(card.name, 'png'), png);
  };
  return (
    <section aria-label="The chart as a picture">
      <h2 className="font-bold">The chart as a picture</h2>
      <p className="text-soft">{formatPlural(rows.length, 'row')}, with title, axis and legend.</p>
      <p className="mt-2 flex flex-wrap gap-2">
        {window === undefined ? null : (
          <>
            <Button onClick={() => saveSvg(true)}>SVG of the part shown</Button>
            <Button onClick={() => savePng(true)}>PNG of the part shown</Button>
          </>
        )}
        <Button onClick={() => saveSvg(false)}>SVG of the whole load</Button>
        <Button onClick={() => savePng(false)}>PNG of the whole load</Button>
      </p>
    </section>
  );
}

function TableExport({
  table: { what, header, rows },
  saving: { card, saved, onSaid },
}: {
  readonly table: ExportTable;
  readonly saving: Saving;
}) {
  const name = (extension: string): string => fileName(`${card.name} ${what.split(' ').at(-1)}`, extension);
  const saveJson = (): void => {
    const items = rows().map((cells) => Object.fromEntries(header.map((key, at) => [key, cells[at]])));
    saved(name('json'), new Blob([JSON.stringify(items, null, 2)], { type: 'application/json' }));
  };
  const copy = async (): Promise<void> => {
    const all = rows();
    const cells = all.map((row) => row.map((cell) => (cell === undefined ? '' : String(cell))));
    const figures = [...header.keys()].filter((at) => all.every((row) => typeof row[at] !== 'string'));
    const isCopied = await copyText(await tableAsText({ title: what, head: header, rows: cells, figures }));
    onSaid({
      text: isCopied ? `Copied the ${what}.` : 'The browser does not allow this page to copy.',
      detail: undefined,
    });
  };
  return (
    <section aria-label={`The ${what}`}>
      <h2 className="font-bold">The {what}</h2>
      <p className="mt-2 flex flex-wrap gap-2">
        <Button onClick={() => saved(name('csv'), csvFile(toCsv(header, rows())))}>CSV of the {what}</Button>
        <Button onClick={saveJson}>JSON of the {what}</Button>
        <Button onClick={copy}>Copy as text</Button>
      </p>
    </section>
  );
}

interface ExchangesExportProps {
  readonly exchanges: readonly ExchangeRow[];
  readonly saving: Saving;
}

function ExchangesExport({ exchanges, saving: { card, saved, sayProblem } }: ExchangesExportProps) {
  const saveJson = (): void => {
    const text = JSON.stringify(exchanges.map(rowJson), null, 2);
    saved(fileName(card.name, 'json'), new Blob([text], { type: 'application/json' }));
  };
  const saveHar = async (): Promise<void> => {
    const answer = await exportHar(
      card.id,
      exchanges.map(({ index }) => index),
    );
    if (answer.ok) saved(fileName(`${card.name} part`, 'har'), answer.value);
    else sayProblem(answer.problem);
  };
  const saveBodies = async (): Promise<void> => {
    const answer = await exportBodies(
      card.id,
      exchanges.map(({ index }) => index),
    );
    if (answer.ok) saved(fileName(`${card.name} bodies`, 'zip'), answer.value);
    else sayProblem(answer.problem);
  };
  return (
    <section aria-label="The exchanges">
      <h2 className="font-bold">The {formatPlural(exchanges.length, 'exchange')} shown</h2>
      <p className="text-soft">
        The HAR file contains everything as recorded, including cookies and tokens; the hand-off inks them out. The zip
        contains the responses’ bodies as recorded, under the site’s own paths.
      </p>
      <p className="mt-2 flex flex-wrap gap-2">
        <Button onClick={() => saved(fileName(card.name, 'csv'), csvFile(rowsToCsv(exchanges)))}>CSV</Button>
        <Button onClick={saveJson}>JSON</Button>
        <Button onClick={saveHar}>HAR of these</Button>
        <Button isOff={exchanges.length === 0} onClick={saveBodies}>
          Zip of their bodies
        </Button>
        <CsvMark />
      </p>
    </section>
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
