import { useEffect, useState } from 'react';
import { formatPlural } from '#core/wording';
import { bytesOf, type Content } from '../content';
import { ReadingNote } from '../ReadingNote';

const SPECIMEN = 'Five quacking zephyrs jolt my wax bed, 0123456789 ÄÖÜß éñç';
const SIZES_PX = [32, 20, 14] as const;
const FAMILY = 'captured-font';
/** More characters than anybody looks through. */
const SHOWN_CHARACTERS = 400;

interface FontFacts {
  readonly name: string | undefined;
  /** The characters that it draws; absent where its tables cannot be read here, as those of WOFF2 cannot. */
  readonly characters: readonly string[] | undefined;
}

type FontState =
  | { readonly state: 'loading' }
  | { readonly state: 'there'; readonly facts: FontFacts }
  | { readonly state: 'refused' };

/** A font by what is written with it. Browsers check fonts before they use them; a broken one is refused. */
export function FontReading({ content }: { readonly content: Content }) {
  const [font, setFont] = useState<FontState>({ state: 'loading' });
  useEffect(() => {
    let isCurrent = true;
    let face: FontFace | undefined;
    setFont({ state: 'loading' });
    loadFont(content)
      .then(([loaded, facts]) => {
        if (!isCurrent) return;
        face = loaded;
        document.fonts.add(loaded);
        setFont({ state: 'there', facts });
      })
      .catch(() => {
        if (isCurrent) setFont({ state: 'refused' });
      });
    return () => {
      isCurrent = false;
      if (face !== undefined) document.fonts.delete(face);
    };
  }, [content]);
  if (font.state === 'loading') return <ReadingNote>Loading the font</ReadingNote>;
  if (font.state === 'refused') {
    return (
      <ReadingNote isProblem>The browser refuses this font: it is damaged, or of a kind it does not know.</ReadingNote>
    );
  }
  const { name, characters } = font.facts;
  return (
    <>
      {name === undefined && characters === undefined ? null : (
        <ReadingNote>
          {name ?? 'A font without a name'}
          {characters === undefined ? '' : `, ${formatPlural(characters.length, 'character')}`}
        </ReadingNote>
      )}
      <div data-specimen className="border border-line bg-paper p-3" style={{ fontFamily: `${FAMILY}, monospace` }}>
        {SIZES_PX.map((size) => (
          <p key={size} style={{ fontSize: size, lineHeight: 1.25 }} className="mb-2 break-words">
            {SPECIMEN}
          </p>
        ))}
        {characters === undefined ? null : (
          <p style={{ fontSize: 18 }} className="break-all">
            {characters.slice(0, SHOWN_CHARACTERS).join(' ')}
            {characters.length > SHOWN_CHARACTERS ? ' …' : ''}
          </p>
        )}
      </div>
    </>
  );
}

async function loadFont(content: Content): Promise<[FontFace, FontFacts]> {
  const answer = await bytesOf(content);
  if (!answer.ok) throw new Error(answer.problem.sentence);
  const loaded = await new FontFace(FAMILY, answer.value.buffer).load();
  return [loaded, await readFacts(answer.value.buffer)];
}

async function readFacts(buffer: ArrayBuffer): Promise<FontFacts> {
  try {
    const { parse } = await import('opentype.js');
    const font = parse(buffer);
    const characters: string[] = [];
    for (let at = 0; at < font.glyphs.length; at++) {
      const { unicode } = font.glyphs.get(at);
      if (unicode !== undefined && unicode > 0x20) characters.push(String.fromCodePoint(unicode));
    }
    return { name: font.getEnglishName('fullName') || undefined, characters };
  } catch {
    return { name: undefined, characters: undefined };
  }
}
