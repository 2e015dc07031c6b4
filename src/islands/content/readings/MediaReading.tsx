import { useState } from 'react';
import { formatSpan } from '#core/wording';
import type { Content } from '../content';
import { ReadingNote } from '../ReadingNote';

/** Sound or film, to be played. */
export function MediaReading({ content }: { readonly content: Content }) {
  const [lasts, setLasts] = useState<number | 'broken' | undefined>(undefined);
  const events = {
    controls: true,
    preload: 'metadata',
    onLoadedMetadata: ({ currentTarget }: { currentTarget: HTMLMediaElement }) =>
      setLasts(Number.isFinite(currentTarget.duration) ? currentTarget.duration * 1000 : undefined),
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
      {lasts === undefined ? null : <ReadingNote>It lasts {formatSpan(lasts)}.</ReadingNote>}
    </>
  );
}
