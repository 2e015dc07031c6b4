import { useEffect, useState } from 'react';
import { bytesOf, type Content } from '../content';
import { ReadingNote } from '../ReadingNote';

/** Every letter of the alphabet, figures and signs; drawn in three sizes. */
const SPECIMEN = 'Zwölf Boxkämpfer jagen Viktor quer über den großen Deich';
const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ abcdefghijklmnopqrstuvwxyz 0123456789 &@%€£§!?()[]{}«»';
const SIZES_PX = [32, 20, 14] as const;
const FAMILY = 'captured-font';

/** A font by what is written with it. Browsers check fonts before they use them; a broken one is refused. */
export function FontReading({ content }: { readonly content: Content }) {
  const [state, setState] = useState<'loading' | 'there' | 'refused'>('loading');
  useEffect(() => {
    let isCurrent = true;
    let face: FontFace | undefined;
    setState('loading');
    bytesOf(content)
      .then((answer) => {
        if (!answer.ok) throw new Error(answer.problem.sentence);
        return new FontFace(FAMILY, answer.value.buffer).load();
      })
      .then((loaded) => {
        if (!isCurrent) return;
        face = loaded;
        document.fonts.add(loaded);
        setState('there');
      })
      .catch(() => {
        if (isCurrent) setState('refused');
      });
    return () => {
      isCurrent = false;
      if (face !== undefined) document.fonts.delete(face);
    };
  }, [content]);
  if (state === 'loading') return <ReadingNote>Loading the font</ReadingNote>;
  if (state === 'refused') {
    return (
      <ReadingNote isProblem>The browser refuses this font: it is damaged, or of a kind it does not know.</ReadingNote>
    );
  }
  return (
    <div data-specimen className="border border-line bg-paper p-3" style={{ fontFamily: FAMILY }}>
      {SIZES_PX.map((size) => (
        <p key={size} style={{ fontSize: size, lineHeight: 1.25 }} className="mb-2 break-words">
          {SPECIMEN}
        </p>
      ))}
      <p style={{ fontSize: 16 }} className="break-all">
        {LETTERS}
      </p>
    </div>
  );
}
