import { useEffect, useRef, useState } from 'react';
import type { CodeEditor } from './edit-code';

interface CodeEditProps {
  readonly text: string;
  readonly language: string;
  readonly label: string;
  readonly isTall?: boolean;
  readonly onChange?: (text: string) => void;
  /** Is given the way to the selected text. */
  readonly onReady?: (selected: () => string) => void;
}

/** Code to be edited, or read where nobody hears of changes. The editor is loaded when the first one is shown. */
export function CodeEdit({ text, language, label, isTall = false, onChange, onReady }: CodeEditProps) {
  const host = useRef<HTMLDivElement>(null);
  const editor = useRef<CodeEditor>(undefined);
  const latest = useRef({ text, onChange, onReady });
  latest.current = { text, onChange, onReady };
  const [state, setState] = useState<'loading' | 'there' | 'failed'>('loading');
  const isRead = onChange === undefined;
  useEffect(() => {
    let isCurrent = true;
    import('./edit-code')
      .then(({ openCode }) => {
        if (!isCurrent || host.current === null) return;
        const opened = openCode(host.current, {
          text: latest.current.text,
          language,
          label,
          isTall,
          ...(isRead ? {} : { onChange: (next: string) => latest.current.onChange?.(next) }),
        });
        editor.current = opened;
        latest.current.onReady?.(opened.selected);
        setState('there');
      })
      .catch(() => {
        if (isCurrent) setState('failed');
      });
    return () => {
      isCurrent = false;
      editor.current?.close();
      editor.current = undefined;
    };
  }, [language, label, isTall, isRead]);
  useEffect(() => editor.current?.show(text), [text]);
  return (
    <>
      {state === 'failed' ? <p className="text-failed">The editor could not be loaded. Load the page again.</p> : null}
      {state === 'loading' ? <p className="text-soft">Loading the editor</p> : null}
      <div ref={host} data-code hidden={state !== 'there'} className="border border-line bg-paper" />
    </>
  );
}
