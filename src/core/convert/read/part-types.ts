/** The media types that curl gives files by the ends of their names (curl manual, --form); of others it says that they are bytes. */
const BY_CURL: Readonly<Record<string, string>> = {
  gif: 'image/gif',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  png: 'image/png',
  svg: 'image/svg+xml',
  txt: 'text/plain',
  htm: 'text/html',
  html: 'text/html',
  pdf: 'application/pdf',
  xml: 'application/xml',
};

/** Those that Python knows beside them (its module mimetypes). */
const BY_PYTHON: Readonly<Record<string, string>> = {
  ...BY_CURL,
  bin: 'application/octet-stream',
  css: 'text/css',
  csv: 'text/csv',
  js: 'text/javascript',
  json: 'application/json',
  mjs: 'text/javascript',
  mp3: 'audio/mpeg',
  mp4: 'video/mp4',
  tar: 'application/x-tar',
  webm: 'video/webm',
  zip: 'application/zip',
};

const endOf = (fileName: string): string => /\.([^./\\]+)$/.exec(fileName)?.[1]?.toLowerCase() ?? '';

export const typeByCurl = (fileName: string): string => BY_CURL[endOf(fileName)] ?? 'application/octet-stream';
export const typeByPython = (fileName: string): string | undefined => BY_PYTHON[endOf(fileName)];
