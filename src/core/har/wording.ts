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
        advice: 'Choose the .har file that the recorder saved; it starts with { and holds "log".',
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
    case 'damaged-archive':
      return {
        sentence: `The ${problem.kind} file is damaged: it cannot be unpacked to its end.`,
        advice: 'Ask whoever sent it to pack and send it again.',
      };
    case 'unpacks-too-large':
      return {
        sentence: `The file unpacks from ${problem.packedBytes} bytes to more than ${problem.unpackedBytes}: no capture shrinks that far.`,
        advice: 'Do not trust it; if you know what it is, unpack it yourself and choose the capture in it.',
      };
    case 'no-capture-inside':
      return {
        sentence: 'The zip file holds no capture: nothing in it ends in .har or .json.',
        advice: 'Choose a zip file that holds captures, or a capture itself.',
      };
    default:
      return problem satisfies never;
  }
}

/** The error to throw for a problem, worded for the person who must act on it. */
export function harError(problem: HarProblem): HarError {
  const { sentence, advice } = wordHarProblem(problem);
  return new HarError(problem, `${sentence} ${advice}`);
}
