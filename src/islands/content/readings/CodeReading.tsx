import { useCallback, useEffect, useState } from 'react';
import { formatBytes } from '#core/wording';
import { useFetched } from '../../ui/use-fetched';
import { CodeBox } from '../CodeBox';
import { type Content, textOf } from '../content';
import { ContentWorker } from '../content-worker';
import { ReadingNote } from '../ReadingNote';

/** Text as it is, coloured where its language is known; of a long one the beginning, until all of it is asked for. */
export function CodeReading({ content }: { readonly content: Content }) {
  const [wantsAll, setWantsAll] = useState(false);
  return wantsAll ? (
    <WholeCode content={content} />
  ) : (
    <>
      <CodeBox text={content.text ?? ''} language={content.language} />
      {content.isCut ? (
        <p className="mt-1 text-[13px] text-soft">
          This is its beginning.{' '}
          <button type="button" className="underline hover:text-ink" onClick={() => setWantsAll(true)}>
            Show all {formatBytes(content.byteLength)}
          </button>
        </p>
      ) : null}
    </>
  );
}

function WholeCode({ content }: { readonly content: Content }) {
  const fetchIt = useCallback(() => textOf(content), [content]);
  const [fetched] = useFetched(fetchIt);
  if (fetched.state === 'loading') return <ReadingNote>Loading all of it</ReadingNote>;
  if (fetched.state === 'failed') return <ReadingNote isProblem>{fetched.problem.sentence}</ReadingNote>;
  return <CodeBox text={fetched.value} language={content.language} />;
}

type Formatted =
  | { readonly state: 'working' }
  | { readonly state: 'there'; readonly text: string }
  | { readonly state: 'failed'; readonly reason: string };

/** Minified code formatted for reading, in a worker that ends when it is no longer wanted. */
export function FormattedReading({ content }: { readonly content: Content }) {
  const [formatted, setFormatted] = useState<Formatted>({ state: 'working' });
  const { language } = content;
  useEffect(() => {
    if (language === undefined) return;
    const worker = new ContentWorker();
    let isCurrent = true;
    setFormatted({ state: 'working' });
    textOf(content)
      .then((answer) => {
        if (!answer.ok) throw new Error(answer.problem.sentence);
        return worker.ask({ type: 'format', text: answer.value, language });
      })
      .then(({ text }) => {
        if (isCurrent) setFormatted({ state: 'there', text });
      })
      .catch((error: Error) => {
        if (isCurrent) setFormatted({ state: 'failed', reason: error.message.split('\n')[0] ?? '' });
      });
    return () => {
      isCurrent = false;
      worker.stop();
    };
  }, [content, language]);
  if (formatted.state === 'working') return <ReadingNote>Formatting</ReadingNote>;
  if (formatted.state === 'failed') {
    return <ReadingNote isProblem>It cannot be formatted, as it cannot be parsed: {formatted.reason}</ReadingNote>;
  }
  return <CodeBox text={formatted.text} language={language} />;
}
