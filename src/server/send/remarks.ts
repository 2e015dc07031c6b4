import { readBody } from '#core/content';
import { findHeader } from '#core/model';
import { inflateWithZlib } from '../inflate';
import type { CameBack } from './heard';
import { asResponse } from './held';

/** What is to be known of a response beside itself, in sentences: how its transfer ended, and what its body still is. */
export function remarksOn(came: CameBack): string[] {
  const transfer = came.broke?.sentence ?? (came.isCut ? 'The body is cut: only its first 50 MB are kept.' : undefined);
  const more = came.hasMore
    ? 'More came behind the response than its status and headers announce: that was left.'
    : undefined;
  return [transfer, more, tellCoding(came)].filter((remark) => remark !== undefined);
}

const KNOWN = /^(?:x-)?gzip$|^deflate$|^br$|^zstd$/i;

/** Why a body that says that it is packed is shown as it came (RFC 9110 8.4). */
function tellCoding(came: CameBack): string | undefined {
  const coding = findHeader(came.headers, 'content-encoding')?.split(',').at(-1)?.trim() ?? '';
  if (came.body.length === 0 || coding === '' || coding.toLowerCase() === 'identity') return undefined;
  if (!KNOWN.test(coding)) return `The body is in ${coding}, which is not unpacked here: it is shown as it came.`;
  if (readBody(asResponse(came), inflateWithZlib).decoded?.unpackedFrom !== undefined) return undefined;
  return `The body is said to be in ${coding}, and cannot be unpacked: it is something else, damaged, cut, or longer than 64 MB unpacked. It is shown as it came.`;
}
