import opentype from 'opentype.js';
import sharp from 'sharp';
import { between, chanceOf } from './random';

// Photos, map tiles and fonts, all drawn by this script and the same at every start.

const cache = new Map<string, Promise<Buffer>>();

function once(key: string, make: () => Promise<Buffer>): Promise<Buffer> {
  const known = cache.get(key) ?? make();
  cache.set(key, known);
  return known;
}

/** Ridges behind each other under a sky, as a landscape photo would have them. */
function landscape(name: string, width: number, height: number): string {
  const hue = between(`${name} hue`, 180, 250);
  const layers = Array.from({ length: 5 }, (_, layer) => {
    const base = height * (0.35 + layer * 0.13);
    const points = Array.from({ length: 25 }, (_point, at) => {
      const rise = (chanceOf(`${name} ${layer} ${at}`) - 0.5) * height * 0.24;
      return `${Math.round((at / 24) * width)},${Math.round(base + rise)}`;
    });
    return `<polygon fill="hsl(${hue - layer * 16} ${18 + layer * 7}% ${70 - layer * 13}%)" points="0,${height} ${points.join(' ')} ${width},${height}"/>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><rect width="100%" height="100%" fill="hsl(${hue} 45% 84%)"/><circle cx="${between(`${name} sun`, 10, 90)}%" cy="18%" r="${height / 14}" fill="#fdf3d0"/>${layers.join('')}</svg>`;
}

/** A photo as WebP, drawn with grain so that it weighs what a photo weighs. */
export const photo = (name: string, width: number, quality: number): Promise<Buffer> =>
  once(`${name} ${width} ${quality}`, async () => {
    const height = Math.round((width * 9) / 16);
    const grain = Buffer.alloc(width * height * 3);
    // One multiplication a byte: a photo of 1600 pixels has four million of them.
    let state = Math.floor(chanceOf(name) * 4_294_967_296) | 1;
    for (let at = 0; at < grain.length; at++) {
      state = Math.imul(state, 1_664_525) + 1_013_904_223;
      grain[at] = 64 + ((state >>> 24) % 128);
    }
    const noise = await sharp(grain, { raw: { width, height, channels: 3 } })
      .blur(1.1)
      .png()
      .toBuffer();
    return sharp(Buffer.from(landscape(name, width, height)))
      .composite([{ input: noise, blend: 'overlay' }])
      .webp({ quality })
      .toBuffer();
  });

/** A map tile as PNG: contour lines on paper. */
export const mapTile = (x: number, y: number): Promise<Buffer> =>
  once(`tile ${x} ${y}`, () => {
    const lines = Array.from({ length: 9 }, (_, line) => {
      const radius = 14 + line * 22;
      return `<circle cx="${between(`${x} cx`, 0, 256)}" cy="${between(`${y} cy`, 0, 256)}" r="${radius}" fill="none" stroke="#b08a5a" stroke-width="${line % 3 === 0 ? 2 : 1}"/>`;
    });
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="256" height="256"><rect width="256" height="256" fill="#eef0e2"/>${lines.join('')}</svg>`;
    return sharp(Buffer.from(svg)).png({ palette: true, colours: 16 }).toBuffer();
  });

const CHARACTERS = ' abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.,:;-()/€';

/** A font whose letters are stepped blocks, each its own: real enough to be loaded and drawn. */
export const font = (weight: number): Promise<Buffer> =>
  once(`font ${weight}`, async () => {
    const glyphs = [new opentype.Glyph({ name: '.notdef', unicode: 0, advanceWidth: 500, path: new opentype.Path() })];
    for (const character of CHARACTERS) {
      const path = new opentype.Path();
      if (character !== ' ') drawLetter(path, character, weight);
      glyphs.push(
        new opentype.Glyph({
          name: `u${character.charCodeAt(0).toString(16)}`,
          unicode: character.charCodeAt(0),
          advanceWidth: character === ' ' ? 260 : 520,
          path,
        }),
      );
    }
    const made = new opentype.Font({
      familyName: 'Overland',
      styleName: weight > 500 ? 'Bold' : 'Regular',
      unitsPerEm: 1000,
      ascender: 800,
      descender: -200,
      glyphs,
    });
    return Buffer.from(made.toArrayBuffer());
  });

function drawLetter(path: opentype.Path, character: string, weight: number): void {
  const stroke = weight / 5;
  for (let step = 0; step < 5; step++) {
    const left = 40 + between(`${character} ${step} left`, 0, 200);
    const right = left + stroke + between(`${character} ${step} width`, 40, 180);
    const bottom = step * 140;
    path.moveTo(left, bottom);
    path.lineTo(left, bottom + stroke);
    path.lineTo(right, bottom + stroke);
    path.lineTo(right, bottom);
    path.close();
  }
}

export const LOGO = `<svg xmlns="http://www.w3.org/2000/svg" width="160" height="40" viewBox="0 0 160 40"><path d="M2 36 L30 8 L46 24 L62 4 L94 36 Z" fill="#2b5b4b"/><text x="100" y="28" font-size="14" fill="#22313a">Cumbrera</text></svg>`;
