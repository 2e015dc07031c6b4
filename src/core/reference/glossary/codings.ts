import { explain } from '../entry';

/** Content codings, and the framing of HTTP/1.1. */
export const CODINGS = explain('coding', [
  ['gzip', 'LZ77 with a checksum; every client can undo it.', 'RFC 9110 8.4.1.3', ['compression', 'x-gzip', 'deflate']],
  [
    'deflate',
    'The same method in a zlib wrapper; some servers leave the wrapper away.',
    'RFC 9110 8.4.1.2',
    ['compression', 'zlib'],
  ],
  [
    'br',
    'Brotli: smaller than gzip for text. Browsers ask for it over HTTPS only.',
    'RFC 7932',
    ['brotli', 'compression'],
  ],
  ['zstd', 'Zstandard: about as small as Brotli, quicker to make.', 'RFC 8878', ['zstandard', 'compression']],
  [
    'dcb, dcz',
    'Brotli or Zstandard against a dictionary that the client has already, such as the version before.',
    'RFC 9842',
    ['dictionary', 'compression dictionary', 'shared dictionary'],
  ],
  ['compress', 'LZW; practically unused.', 'RFC 9110 8.4.1.1'],
  ['identity', 'Not compressed.', 'RFC 9110 12.5.3', ['uncompressed']],
  [
    'chunked',
    'HTTP/1.1 only: the body comes in pieces, each with its length, since the whole length was not known in advance. Not a compression.',
    'RFC 9112 7.1',
    ['transfer-encoding'],
  ],
]);
