import { useCallback, useEffect, useMemo, useState } from 'react';
import type { Content } from '../content';
import { ReadingNote } from '../ReadingNote';

type Seen = { readonly widthPx: number; readonly heightPx: number };

/** An image with its dimensions, on a ground that shows where it is transparent. */
export function ImageReading({ content }: { readonly content: Content }) {
  const [seen, setSeen] = useState<Seen | 'broken' | undefined>(undefined);
  const address = useAddress(content);
  // What is quickly there has come before the page was drawn with it.
  const lookAt = useCallback((image: HTMLImageElement | null) => {
    if (image === null || !image.complete) return;
    const { naturalWidth: widthPx, naturalHeight: heightPx } = image;
    setSeen(widthPx === 0 ? 'broken' : { widthPx, heightPx });
  }, []);
  if (seen === 'broken') return <ReadingNote>The browser cannot draw this image; its bytes can be saved.</ReadingNote>;
  return (
    <>
      <img
        src={address}
        alt="The body as it was received"
        className="max-h-96 max-w-full border border-line bg-paper bg-size-[16px_16px] bg-[conic-gradient(var(--grid)_25%,transparent_0_50%,var(--grid)_0_75%,transparent_0)]"
        ref={lookAt}
        onLoad={({ currentTarget }) => lookAt(currentTarget)}
        onError={() => setSeen('broken')}
      />
      {seen === undefined ? null : (
        <ReadingNote>
          {seen.widthPx} by {seen.heightPx} pixels
        </ReadingNote>
      )}
    </>
  );
}

/** Where the bytes are: at the server, or in the page. */
function useAddress({ address, bytes, mimeType }: Content): string | undefined {
  const own = useMemo(
    () =>
      address === undefined && bytes !== undefined
        ? URL.createObjectURL(new Blob([bytes], { type: mimeType ?? 'image/png' }))
        : undefined,
    [address, bytes, mimeType],
  );
  useEffect(() => {
    if (own === undefined) return;
    return () => URL.revokeObjectURL(own);
  }, [own]);
  return address ?? own;
}
