import { useStore } from '@nanostores/react';
import type { ImportResult } from '#core/wire';
import { formatBytes, formatPlural } from '#core/wording';
import { $uploads, cancelUpload, forgetUpload, type Upload } from '../state/uploads';
import { Button } from '../ui/Button';

/** The files on their way in, and what became of them, at the foot of every page. */
export default function UploadTray() {
  const uploads = Object.values(useStore($uploads));
  if (uploads.length === 0) return null;
  return (
    <section aria-label="Imports" className="shrink-0 border-line border-t bg-sheet">
      {uploads.map((upload) => (
        <div
          key={upload.id}
          data-upload={upload.state}
          className="flex items-center gap-4 border-line border-b px-4 py-2 last:border-0"
        >
          <UploadLine upload={upload} />
        </div>
      ))}
    </section>
  );
}

function UploadLine({ upload }: { readonly upload: Upload }) {
  switch (upload.state) {
    case 'sending': {
      const done = share(upload.sentBytes, upload.totalBytes);
      const word = `${formatBytes(upload.sentBytes)} of ${formatBytes(upload.totalBytes)} received`;
      return (
        <Progress
          upload={upload}
          share={done}
          word={`${word}${pace(upload.sentBytes, upload.totalBytes, upload.startedAt)}`}
        />
      );
    }
    case 'waiting':
      return <Progress upload={upload} share={1} word="waiting for the previous file" />;
    case 'reading': {
      const done = share(upload.readBytes, upload.totalBytes);
      const word = `${formatPlural(upload.exchanges, 'exchange')} read`;
      return (
        <Progress
          upload={upload}
          share={done}
          word={`${word}${pace(upload.readBytes, upload.totalBytes, upload.since)}`}
        />
      );
    }
    case 'ended':
      return (
        <>
          <ul className="flex-1">
            {upload.results.map((result, place) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: captures in one zip may share their name; the list never changes.
              <li key={`${place} ${result.name}`} className="flex items-center gap-4 py-0.5" data-result={result.type}>
                <ResultLine result={result} />
              </li>
            ))}
          </ul>
          <Button onClick={() => forgetUpload(upload.id)} label={`Dismiss the message on ${upload.name}`}>
            Dismiss
          </Button>
        </>
      );
    case 'failed':
      return (
        <>
          <p role="alert" className="flex-1 border-failed border-l-2 pl-3">
            "{upload.name}" could not be imported. {upload.problem.sentence} {upload.problem.advice}
          </p>
          <Button onClick={() => forgetUpload(upload.id)} label={`Dismiss the message on ${upload.name}`}>
            Dismiss
          </Button>
        </>
      );
    default:
      return upload satisfies never;
  }
}

const share = (part: number, whole: number): number => (whole === 0 ? 1 : Math.min(1, part / whole));

/** A pace over less time than this would jump about. */
const LEAST_PACE_MS = 400;

/** How fast it goes and how long it will take, as a clause; empty while it is too early to say. */
function pace(doneBytes: number, totalBytes: number, since: number): string {
  const elapsedMs = Date.now() - since;
  if (elapsedMs < LEAST_PACE_MS || doneBytes === 0) return '';
  const perSecond = (doneBytes / elapsedMs) * 1000;
  const leftMs = ((totalBytes - doneBytes) / perSecond) * 1000;
  return `, ${formatBytes(perSecond)}/s, ${leftMs < 1000 ? 'under 1 s' : `${Math.round(leftMs / 1000)} s`} left`;
}

interface ProgressProps {
  readonly upload: Upload;
  readonly share: number;
  readonly word: string;
}

function Progress({ upload, share: done, word }: ProgressProps) {
  return (
    <>
      <span className="w-60 truncate font-semibold">{upload.name}</span>
      <div
        role="progressbar"
        aria-label={upload.name}
        aria-valuenow={Math.round(done * 100)}
        className="h-1.5 flex-1 border border-net bg-paper"
      >
        <div className="h-full bg-net" style={{ width: `${done * 100}%` }} />
      </div>
      <span className="min-w-80 text-right text-soft">{word}</span>
      <Button onClick={() => cancelUpload(upload.id)} label={`Cancel ${upload.name}`}>
        Cancel
      </Button>
    </>
  );
}

/** What became of one capture of a file. */
function ResultLine({ result }: { readonly result: ImportResult }) {
  switch (result.type) {
    case 'imported':
      return (
        <>
          <p role="status">"{result.name}" was imported.</p>
          <OpenLink captureId={result.id} />
        </>
      );
    case 'duplicate':
      return (
        <>
          <p role="status">Already imported as "{result.name}".</p>
          <OpenLink captureId={result.id} />
        </>
      );
    case 'unreadable':
      return (
        <p role="alert" className="border-failed border-l-2 pl-3">
          "{result.name}" could not be imported. {result.sentence} {result.advice}
        </p>
      );
    default:
      return result satisfies never;
  }
}

const OpenLink = ({ captureId }: { readonly captureId: string }) => (
  <a
    href={`/c/${captureId}/brief`}
    className="border border-ink bg-ink px-2.5 py-1 font-semibold text-[13px] text-paper"
  >
    Open
  </a>
);
