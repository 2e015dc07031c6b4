import { useEffect, useRef, useState } from 'react';
import type { Language } from '#core/content';
import { ReadingNote } from './ReadingNote';

interface CodeBoxProps {
  readonly text: string;
  readonly language: Language | undefined;
}

const SHOWN_BEFORE_CHARS = 2000;

/** Text to be read, drawn as far as it is on screen, so that no length of line or text can freeze the page. */
export function CodeBox({ text, language }: CodeBoxProps) {
  const host = useRef<HTMLDivElement>(null);
  const [state, setState] = useState<'loading' | 'there' | 'failed'>('loading');
  useEffect(() => {
    let close: (() => void) | undefined;
    let isCurrent = true;
    // The editor is loaded when the first text is shown: the chart does not need it.
    import('./show-code')
      .then(({ showCode }) => {
        if (!isCurrent || host.current === null) return;
        close = showCode(host.current, text, language);
        setState('there');
      })
      .catch(() => {
        if (isCurrent) setState('failed');
      });
    return () => {
      isCurrent = false;
      close?.();
    };
  }, [text, language]);
  return (
    <>
      {state === 'failed' ? (
        <ReadingNote isProblem>The text view could not be loaded; its beginning is below.</ReadingNote>
      ) : null}
      {state === 'there' ? null : (
        <pre className="max-h-[420px] overflow-auto whitespace-pre-wrap break-words border border-line bg-paper p-2 font-mono text-[12px]">
          {text.slice(0, SHOWN_BEFORE_CHARS)}
        </pre>
      )}
      <div ref={host} data-code hidden={state !== 'there'} className="border border-line bg-paper" />
    </>
  );
}
