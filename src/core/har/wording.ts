import type { Seeming } from './dressing';
import { HarError, type HarProblem } from './problem';

/** One sentence on what is wrong and one on what to do about it. */
export function wordHarProblem(problem: HarProblem): { readonly sentence: string; readonly advice: string } {
  switch (problem.code) {
    case 'empty-file':
      return {
        sentence: 'The file is empty: it has no bytes.',
        advice: 'Save the capture again, or ask whoever sent it to send it again.',
      };
    case 'not-json':
      return {
        sentence: `The file is not JSON: at byte ${problem.atByte} ${problem.expected} was expected and ${problem.found} was found.`,
        advice: 'Choose the .har file that the recorder saved; it starts with { and contains "log".',
      };
    case 'not-har':
      return {
        sentence: `The file is JSON but not an HTTP Archive: ${problem.where} should be ${problem.expected}, and is ${problem.found}.`,
        advice: 'Choose a file saved as HTTP Archive (HAR 1.2): an object "log" with a list "entries".',
      };
    case 'cut-too-early':
      return {
        sentence: `The file is cut off at byte ${problem.atByte}, before its first exchange was complete.`,
        advice: 'Save the capture again; if it was sent to you, ask for it once more, compressed.',
      };
    case 'another-kind':
      return SEEMING[problem.seems];
    case 'locked-archive':
      return {
        sentence: `The zip file is encrypted: ${problem.name} in it cannot be read without its password.`,
        advice: 'Unpack it with its password and choose the capture itself.',
      };
    case 'unknown-packing':
      return {
        sentence: `The zip file packs ${problem.name} by method ${problem.method}, which cannot be unpacked here.`,
        advice: 'Unpack it with the program that packed it and choose the capture itself.',
      };
    case 'damaged-archive':
      return {
        sentence: `The ${problem.kind} file is damaged: it cannot be unpacked to its end.`,
        advice: 'Ask whoever sent it to pack and send it again.',
      };
    case 'unpacks-too-large':
      return {
        sentence: `The file was refused: its ${problem.packedBytes} bytes decompress to more than ${problem.unpackedBytes}, which no capture does.`,
        advice: 'Do not trust it; if you know what it is, unpack it yourself and choose the capture in it.',
      };
    case 'no-capture-inside':
      return {
        sentence: 'The zip file contains no capture: nothing in it ends in .har or .json.',
        advice:
          problem.inner === undefined
            ? 'Choose a zip file that contains captures, or a capture itself.'
            : `It contains another zip file, ${problem.inner}: unpack that one and choose it.`,
      };
    default:
      return problem satisfies never;
  }
}

const packed = (what: string): { readonly sentence: string; readonly advice: string } => ({
  sentence: `The file is packed by ${what}, which is not unpacked here.`,
  advice: 'Unpack it and choose the .har file in it; gzip and zip need no unpacking.',
});

const another = (what: string): { readonly sentence: string; readonly advice: string } => ({
  sentence: `The file is ${what}, not a capture.`,
  advice: 'Choose the .har file that the recorder saved; it starts with { and contains "log".',
});

const SEEMING: Record<Seeming, { readonly sentence: string; readonly advice: string }> = {
  'web-page': {
    sentence: 'The file is a web page, not a capture.',
    advice:
      'It may be what a server showed instead of the file: open it in a browser to see, and save the capture again.',
  },
  xml: another("XML without HAR's elements"),
  zip: packed('zip once more'),
  gzip: packed('gzip several times'),
  xz: packed('xz'),
  bzip2: packed('bzip2'),
  zstd: packed('zstd'),
  '7z': packed('7z'),
  rar: packed('rar'),
  tar: packed('tar'),
  pdf: another('a PDF'),
  picture: another('a picture'),
  database: another('an SQLite database'),
  yaml: another('YAML'),
  'json-text': {
    sentence: 'The file is one JSON text that contains a capture as text.',
    advice: 'Take the text out of its quotes, as JSON.parse does, and save that.',
  },
};

/** The error to throw for a problem, worded for the person who must act on it. */
export function harError(problem: HarProblem): HarError {
  const { sentence, advice } = wordHarProblem(problem);
  return new HarError(problem, `${sentence} ${advice}`);
}
