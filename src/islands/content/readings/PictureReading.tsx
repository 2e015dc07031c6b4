import { useState } from 'react';
import type { Content } from '../content';
import { ReadingNote } from '../ReadingNote';

/**
 * How a page's markup looks by itself: drawn in a frame that may run no script, load nothing and reach nobody (HTML
 * sandbox, and the answer's own content security policy).
 */
export function PictureReading({ content }: { readonly content: Content }) {
  const [isThere, setThere] = useState(false);
  if (content.address === undefined) return <ReadingNote>Only a response’s body can be drawn.</ReadingNote>;
  return (
    <>
      <ReadingNote>
        {isThere ? 'Static preview: scripts and external resources are blocked.' : 'Drawing the picture'}
      </ReadingNote>
      <iframe
        title="Picture of the page’s markup"
        sandbox=""
        src={`${content.address}?as=picture`}
        onLoad={() => setThere(true)}
        className="h-[420px] w-full border border-line bg-white"
      />
    </>
  );
}
