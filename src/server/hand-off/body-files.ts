import { createHash } from 'node:crypto';
import { BodyPaths, bodyAsSent } from '#core/content';
import { type Exchange, findHeader, findResponse } from '#core/model';
import { inflateWithZlib } from '../inflate';

/** A body with the path that it has among files, parted by "/". */
export interface BodyFile {
  readonly index: number;
  readonly url: string;
  readonly path: string;
  readonly mimeType: string | undefined;
  readonly bytes: Uint8Array;
  /** The first of those that share the path: the others have the same bytes. */
  readonly isNew: boolean;
}

/** An exchange has no file where no body was recorded, or an empty one. */
export type BodyOfExchange = BodyFile | 'none' | 'empty';

/** The bodies of exchanges as files, one at a time. */
export function* bodyFiles(exchanges: Iterable<Exchange>): Generator<BodyOfExchange> {
  const paths = new BodyPaths();
  for (const exchange of exchanges) {
    const { index, request } = exchange;
    const response = findResponse(exchange);
    const bytes = response === undefined ? undefined : bodyAsSent(response, inflateWithZlib);
    if (response === undefined || bytes === undefined) yield 'none';
    else if (bytes.length === 0) yield 'empty';
    else {
      const digest = createHash('sha256').update(bytes).digest('base64');
      const disposition = findHeader(response.headers, 'content-disposition');
      const { mimeType } = response;
      const { url } = request;
      yield { index, url, mimeType, bytes, ...paths.take({ index, url, mimeType, disposition, digest }) };
    }
  }
}
