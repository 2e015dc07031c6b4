/** Endings of files that may hold a capture, plain or packed. */
const CAPTURE_ENDING = /\.(har|json|zip|gz)$/i;
const LONGEST_NAME_CHARS = 200;

/** True for the name of a file that may hold a capture; used to choose among all that lies in a folder. */
export const mayHoldCapture = (fileName: string): boolean => CAPTURE_ENDING.test(fileName);

/** The name of a capture after its file: without its endings ("load.har.gz" is "load"), never empty. */
export const captureName = (fileName: string): string =>
  fileName
    .replace(CAPTURE_ENDING, '')
    .replace(/\.har$/i, '')
    .trim()
    .slice(0, LONGEST_NAME_CHARS) || 'capture';
