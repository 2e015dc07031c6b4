import type { PDFDocumentProxy } from 'pdfjs-dist';
import { useEffect, useRef, useState } from 'react';
import { bytesOf, type Content } from '../content';
import { ReadingNote } from '../ReadingNote';

type PdfState =
  | { readonly state: 'loading' }
  | { readonly state: 'there'; readonly document: PDFDocumentProxy }
  | { readonly state: 'refused'; readonly reason: string };

const WIDTH_PX = 430;

/** A PDF, page by page, drawn by code in a worker: no plug-in and no script of the document runs. */
export function PdfReading({ content }: { readonly content: Content }) {
  const [pdf, setPdf] = useState<PdfState>({ state: 'loading' });
  const [page, setPage] = useState(1);
  useEffect(() => {
    let isCurrent = true;
    let close: (() => void) | undefined;
    openPdf(content)
      .then((document) => {
        close = () => void document.destroy();
        if (isCurrent) setPdf({ state: 'there', document });
        else close();
      })
      .catch((error: Error) => {
        if (isCurrent) setPdf({ state: 'refused', reason: error.message });
      });
    return () => {
      isCurrent = false;
      close?.();
    };
  }, [content]);
  if (pdf.state === 'loading') return <ReadingNote>Reading the document</ReadingNote>;
  if (pdf.state === 'refused') return <ReadingNote isProblem>This PDF cannot be read: {pdf.reason}</ReadingNote>;
  const { numPages } = pdf.document;
  return (
    <>
      <p className="mb-1 flex gap-3 text-[13px] text-soft">
        page {page} of {numPages}
        <button
          type="button"
          disabled={page <= 1}
          className="underline disabled:opacity-40"
          onClick={() => setPage(page - 1)}
        >
          back
        </button>
        <button
          type="button"
          disabled={page >= numPages}
          className="underline disabled:opacity-40"
          onClick={() => setPage(page + 1)}
        >
          on
        </button>
      </p>
      <PdfPage document={pdf.document} page={page} />
    </>
  );
}

async function openPdf(content: Content): Promise<PDFDocumentProxy> {
  const [pdf, worker, answer] = await Promise.all([
    import('pdfjs-dist'),
    import('pdfjs-dist/build/pdf.worker.min.mjs?url'),
    bytesOf(content),
  ]);
  if (!answer.ok) throw new Error(answer.problem.sentence);
  pdf.GlobalWorkerOptions.workerSrc = worker.default;
  return pdf.getDocument({ data: answer.value, isEvalSupported: false, enableXfa: false, disableFontFace: true })
    .promise;
}

function PdfPage({ document, page }: { readonly document: PDFDocumentProxy; readonly page: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let cancel: (() => void) | undefined;
    let isCurrent = true;
    document.getPage(page).then((one) => {
      if (!isCurrent || canvas.current === null) return;
      const viewport = one.getViewport({ scale: WIDTH_PX / one.getViewport({ scale: 1 }).width });
      canvas.current.width = viewport.width;
      canvas.current.height = viewport.height;
      const task = one.render({ canvas: canvas.current, viewport });
      cancel = () => task.cancel();
      // A page that is left while it is drawn ends so.
      task.promise.catch(() => undefined);
    });
    return () => {
      isCurrent = false;
      cancel?.();
    };
  }, [document, page]);
  return (
    <canvas ref={canvas} role="img" aria-label={`Page ${page}`} className="max-w-full border border-line bg-white" />
  );
}
