import { useCallback, useState } from 'react';
import { formatSpan } from '#core/wording';
import type { Content } from '../content';
import { ReadingNote } from '../ReadingNote';

/** Sound or film, to be played. */
export function MediaReading({ content }: { readonly content: Content }) {
  const [lasts, setLasts] = useState<number | 'broken' | undefined>(undefined);
  // What is quickly there has told its length before the page was drawn with it.
  const lookAt = useCallback((media: HTMLMediaElement | null) => {
    if (media === null) return;
    if (media.error !== null) setLasts('broken');
    else if (Number.isFinite(media.duration)) setLasts(media.duration * 1000);
  }, []);
  const events = {
    ref: lookAt,
    controls: true,
    preload: 'metadata',
    // The length of what has no length in its answer is known only once all of it has come.
    onDurationChange: ({ currentTarget }: { currentTarget: HTMLMediaElement }) => lookAt(currentTarget),
    onError: () => setLasts('broken'),
  };
  if (content.address === undefined) return <ReadingNote>Only a response’s body can be played.</ReadingNote>;
  if (lasts === 'broken') return <ReadingNote>The browser cannot play this; its bytes can be saved.</ReadingNote>;
  return (
    <>
      {content.shape === 'audio' ? (
        <audio src={content.address} className="w-full" {...events} />
      ) : (
        <video src={content.address} className="max-h-96 w-full bg-ink" {...events} />
      )}
      {lasts === undefined ? null : <ReadingNote>Duration {formatSpan(lasts)}.</ReadingNote>}
    </>
  );
}
