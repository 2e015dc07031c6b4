import { type ReactNode, useMemo, useState } from 'react';
import { isProven } from '#core/redact';
import { REPORT_FORMATS, REPORT_PARTS, type ReportFormat, type ReportPart } from '#core/report';
import type { ReportProgress } from '#core/wire';
import { fileName, saveFile } from '../export/save-file';
import { fetchCaptures } from '../state/api';
import { useHome } from '../state/focus';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { copyText } from '../ui/copy';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { type Make, type Streamed, type StreamedState, useStreamed } from '../ui/use-streamed';
import { choosePage } from '../waterfall/arrange';
import type { DeskProps } from './desk-props';
import { makeReport, type ReportAsked, reportAddress } from './hand-off-api';
import { Part } from './Part';
import { ProofLines } from './ProofList';

type Written = Extract<ReportProgress, { type: 'written' }>;

const PART_WORDS: Record<ReportPart, string> = {
  figures: 'figures',
  route: 'what the load waited for',
  ledger: 'where the time went',
  findings: 'findings',
  failed: 'failed exchanges',
  slowest: 'slowest exchanges',
  waterfall: 'exchanges over time',
  comparison: 'comparison',
  noted: 'what was marked and noted',
  sent: 'what was sent many times',
  condition: 'the capture’s condition',
};

const FORMAT_WORDS: Record<ReportFormat, string> = {
  html: 'HTML, for reading and printing',
  md: 'Markdown, for tickets',
};
const NOBODY = '';

/**
 * The report of the page that is looked at: its parts and what is written ahead of them, drawn as it would leave.
 * Long because the report and its choices are the one order that it is made by.
 */
export default function ReportDesk({ card, place, head, choice }: DeskProps) {
  const [parts, setParts] = useState<readonly ReportPart[]>(REPORT_PARTS);
  const [format, setFormat] = useState<ReportFormat>('html');
  const [note, setNote] = useState('');
  const [other, setOther] = useState(NOBODY);
  const home = useHome<HTMLElement>();
  const { pages } = card.overview;
  const at = pages.findIndex(({ id }) => id === choosePage(pages, place.page)?.id);
  const asked = useMemo(
    (): ReportAsked => ({
      choice,
      page: at === -1 ? undefined : at + 1,
      comparedWith: other === NOBODY ? undefined : other,
      parts,
      format,
      notes: note
        .split(/\n{2,}/)
        .map((text) => text.trim())
        .filter((text) => text !== ''),
    }),
    [choice, at, other, parts, format, note],
  );
  const { streamed: report, cancel, again } = useReport(card.id, asked);
  const written = report.state === 'made' && isProven(report.value.proof) ? report.value : undefined;
  return (
    <>
      <div className="flex min-h-9 shrink-0 flex-wrap items-center gap-x-4 border-line border-b bg-paper px-4">
        {head}
        <Choice
          action={{ id: 'report-as', label: 'Choose how the report is written', keys: ['s'] }}
          label="How the report is written"
          before="as"
          value={format}
          options={REPORT_FORMATS.map((one) => [one, FORMAT_WORDS[one]] as const)}
          onChoose={setFormat}
        />
        <span className="ml-auto flex gap-2">
          <SaveReport written={written} format={format} />
        </span>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(16rem,24rem)] max-md:grid-cols-1 max-md:overflow-y-auto">
        {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
        <section
          {...home}
          aria-label="The report as it leaves"
          tabIndex={0}
          className="min-h-0 overflow-hidden bg-sheet outline-none"
        >
          <ReportShown captureId={card.id} report={report} format={format} cancel={cancel} again={again} />
        </section>
        <aside
          aria-label="What is in the report"
          className="min-h-0 overflow-y-auto border-line border-l px-4 pb-8 text-[13px]"
        >
          <Part title="Proof">
            {report.state === 'made' ? (
              <ProofLines lines={report.value.proof} />
            ) : (
              <p className="text-soft">Made with the report.</p>
            )}
          </Part>
          <Part title="Ahead of everything">
            <textarea
              aria-label="The question, and what you found"
              placeholder="The question, and what you found. An empty line begins a new paragraph."
              value={note}
              maxLength={15_000}
              onChange={({ target }) => setNote(target.value)}
              className="h-28 w-full border border-line bg-sheet p-2"
            />
          </Part>
          <Part title="Parts">
            <PartSwitches parts={parts} onChange={setParts} />
          </Part>
          <Part title="Compared with">
            <ComparedWith captureId={card.id} value={other} onChoose={setOther} />
          </Part>
        </aside>
      </div>
    </>
  );
}

type ReportState = Streamed<undefined, Written>;

/** Typing rests for so long before the report is made again. */
const REST_MS = 500;

function useReport(captureId: string, asked: ReportAsked): StreamedState<undefined, Written> {
  const make = useMemo(
    (): Make<undefined, Written> => (tell, signal) =>
      makeReport(
        captureId,
        asked,
        (message) => {
          if (message.type === 'written') tell({ state: 'made', value: message });
          else if (message.type === 'failed') tell({ state: 'failed', problem: message.problem });
        },
        signal,
      ),
    [captureId, asked],
  );
  return useStreamed(make, REST_MS);
}

interface ReportShownProps {
  readonly captureId: string;
  readonly report: ReportState;
  readonly format: ReportFormat;
  readonly cancel: () => void;
  readonly again: () => void;
}

function ReportShown({ captureId, report, format, cancel, again }: ReportShownProps): ReactNode {
  switch (report.state) {
    case 'making':
      return (
        <div className="text-center">
          <Loading what="the report" />
          <Button onClick={cancel}>Cancel</Button>
        </div>
      );
    case 'failed':
      return (
        <Problem problem={report.problem}>
          <Button onClick={again}>Try again</Button>
        </Problem>
      );
    case 'cancelled':
      return (
        <p className="p-4">
          Cancelled: nothing is ready to leave. <Button onClick={again}>Make it</Button>
        </p>
      );
    case 'made':
      return format === 'html' ? (
        // A frame that may run no script, load nothing and reach nobody.
        <iframe
          title="The report"
          sandbox=""
          src={reportAddress(captureId, report.value.id)}
          className="h-full w-full bg-white max-md:h-[70vh]"
        />
      ) : (
        <pre className="h-full overflow-auto whitespace-pre-wrap p-4 font-mono text-[12.5px] [overflow-wrap:anywhere]">
          {report.value.text}
        </pre>
      );
    default:
      return report satisfies never;
  }
}

interface PartSwitchesProps {
  readonly parts: readonly ReportPart[];
  readonly onChange: (parts: readonly ReportPart[]) => void;
}

function PartSwitches({ parts, onChange }: PartSwitchesProps) {
  return (
    <ul>
      {REPORT_PARTS.map((part) => (
        <li key={part}>
          <label className="flex min-h-6 items-center gap-2">
            <input
              type="checkbox"
              checked={parts.includes(part)}
              onChange={({ target }) =>
                onChange(REPORT_PARTS.filter((one) => (one === part ? target.checked : parts.includes(one))))
              }
            />
            {PART_WORDS[part]}
          </label>
        </li>
      ))}
    </ul>
  );
}

interface ComparedWithProps {
  readonly captureId: string;
  readonly value: string;
  readonly onChoose: (id: string) => void;
}

function ComparedWith({ captureId, value, onChoose }: ComparedWithProps) {
  const [fetched, again] = useFetched(fetchCaptures);
  if (fetched.state === 'loading') return <p className="text-soft">Loading the shelf</p>;
  if (fetched.state === 'failed')
    return (
      <p>
        {fetched.problem.sentence} <Button onClick={again}>Try again</Button>
      </p>
    );
  const others = fetched.value.filter(({ id }) => id !== captureId);
  return (
    <Choice
      label="The capture that it is compared with"
      value={value}
      options={[[NOBODY, 'nothing'] as const, ...others.map(({ id, name }) => [id, name] as const)]}
      onChoose={onChoose}
    />
  );
}

interface SaveReportProps {
  readonly written: Written | undefined;
  readonly format: ReportFormat;
}

function SaveReport({ written, format }: SaveReportProps) {
  const save = (): void => {
    if (written === undefined) return;
    const name = fileName(`${written.name} report`, format);
    saveFile(name, new Blob([written.text], { type: format === 'html' ? 'text/html' : 'text/markdown' }));
    tell(`Saved ${name}.`);
  };
  const copy = async (): Promise<void> => {
    const copied = written !== undefined && (await copyText(written.text));
    tell(copied ? 'Copied.' : 'The browser does not allow this page to copy.');
  };
  return (
    <>
      {format === 'md' ? (
        <Button isOff={written === undefined} onClick={copy}>
          Copy
        </Button>
      ) : null}
      <Button
        isMain
        isOff={written === undefined}
        onClick={save}
        action={{ id: 'report-save', label: 'Save the report', keys: ['x'] }}
      >
        Save the report
      </Button>
    </>
  );
}
