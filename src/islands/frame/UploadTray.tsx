import { useStore } from '@nanostores/react';
import { formatBytes, formatPlural, formatShare } from '#core/wording';
import { $uploads, cancelUpload, forgetUpload, type Upload } from '../state/uploads';
import { Button } from '../ui/Button';

/** The files on their way in, and what became of them, at the foot of every page. */
export function UploadTray() {
  const uploads = Object.values(useStore($uploads));
  if (uploads.length === 0) return null;
  return (
    <section aria-label="Incoming files" className="shrink-0 border-line border-t bg-sheet">
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
    case 'sending':
      return (
        <Progress
          upload={upload}
          share={share(upload.sentBytes, upload.totalBytes)}
          word={`${formatBytes(upload.sentBytes)} of ${formatBytes(upload.totalBytes)} taken in`}
        />
      );
    case 'reading':
      return (
        <Progress
          upload={upload}
          share={share(upload.readBytes, upload.totalBytes)}
          word={`${formatPlural(upload.exchanges, 'exchange')} read`}
        />
      );
    case 'imported':
      return (
        <Ended upload={upload} sentence={`"${upload.name}" is on the shelf.`}>
          <OpenLink captureId={upload.captureId} />
        </Ended>
      );
    case 'duplicate':
      return (
        <Ended upload={upload} sentence={`This file is on the shelf already, as "${upload.captureName}".`}>
          <OpenLink captureId={upload.captureId} />
        </Ended>
      );
    case 'failed':
      return (
        <Ended
          upload={upload}
          sentence={`"${upload.name}" was not taken in. ${upload.problem.sentence} ${upload.problem.advice}`}
          isBad
        />
      );
    default:
      return upload satisfies never;
  }
}

const share = (part: number, whole: number): number => (whole === 0 ? 1 : Math.min(1, part / whole));

interface ProgressProps {
  readonly upload: Upload;
  readonly share: number;
  readonly word: string;
}

function Progress({ upload, share: done, word }: ProgressProps) {
  return (
    <>
      <span className="w-60 truncate font-semibold">{upload.name}</span>
      <progress
        max={1}
        value={done}
        aria-label={`${upload.name}: ${formatShare(done)}`}
        className="h-1.5 flex-1 accent-net"
      />
      <span className="w-64 text-right text-soft">{word}</span>
      <Button onClick={() => cancelUpload(upload.id)} label={`Cancel ${upload.name}`}>
        Cancel
      </Button>
    </>
  );
}

interface EndedProps {
  readonly upload: Upload;
  readonly sentence: string;
  readonly isBad?: boolean;
  readonly children?: React.ReactNode;
}

function Ended({ upload, sentence, isBad = false, children }: EndedProps) {
  return (
    <>
      <p role={isBad ? 'alert' : 'status'} className={`flex-1 ${isBad ? 'border-failed border-l-2 pl-3' : ''}`}>
        {sentence}
      </p>
      {children}
      <Button onClick={() => forgetUpload(upload.id)} label={`Dismiss the message on ${upload.name}`}>
        Dismiss
      </Button>
    </>
  );
}

const OpenLink = ({ captureId }: { readonly captureId: string }) => (
  <a
    href={`/c/${captureId}/waterfall`}
    className="border border-ink bg-ink px-2.5 py-1 font-semibold text-[13px] text-paper"
  >
    Open it
  </a>
);
