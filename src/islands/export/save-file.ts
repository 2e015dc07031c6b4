/** Hands a file to the browser, which saves it as it saves downloads. */
export function saveFile(name: string, content: Blob): void {
  const address = URL.createObjectURL(content);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  // Browsers read the address after the click returns.
  setTimeout(() => URL.revokeObjectURL(address), 60_000);
}

/** A file's name from any text: what file systems refuse is left out. */
export const fileName = (text: string, extension: string): string =>
  `${
    text
      .replace(/[\\/:*?"<>|\p{Cc}\s]+/gu, ' ')
      .trim()
      .slice(0, 120) || 'capture'
  }.${extension}`;

/** An SVG document as PNG, twice as large, so that it is sharp on paper and on dense screens. */
export async function toPng(svg: string, widthPx: number, heightPx: number): Promise<Blob | undefined> {
  const address = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = address;
    await image.decode();
    const canvas = document.createElement('canvas');
    // Canvases have their limits: a very high picture is drawn at its own size.
    const density = heightPx > MOST_PX / 2 ? 1 : 2;
    canvas.width = widthPx * density;
    canvas.height = Math.min(MOST_PX, heightPx * density);
    const context = canvas.getContext('2d');
    if (context === null) return undefined;
    context.scale(density, density);
    context.drawImage(image, 0, 0, widthPx, heightPx);
    return (await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))) ?? undefined;
  } finally {
    URL.revokeObjectURL(address);
  }
}
const MOST_PX = 16_000;
