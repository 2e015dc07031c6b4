import { bytesFromText } from '../../content';
import type { DraftPart } from '../draft';
import { lastPartOf } from './curl-address';
import { typeByCurl } from './part-types';

/** A part of a form: name=content, name=@file, name=<file, each with ;type= and ;filename= behind it (curl manual, --form). */
export function addPart(
  value: string,
  isForm: boolean,
  to: { readonly parts: DraftPart[]; readonly notes: string[] },
): void {
  const equals = value.indexOf('=');
  const name = value.slice(0, Math.max(0, equals));
  const content = value.slice(equals + 1);
  if (!isForm) {
    to.parts.push({ name, fileName: undefined, contentType: undefined, bytes: bytesFromText(content) });
    return;
  }
  const mark = /^[@<]/.exec(content)?.[0];
  const { text, options } = partOptions(content.slice(mark?.length ?? 0));
  const fileName = options.get('filename') ?? (mark === '@' ? lastPartOf(text) : undefined);
  const contentType = options.get('type') ?? (mark === '@' ? typeByCurl(fileName ?? '') : undefined);
  if (options.has('headers')) to.notes.push(`The headers of the part ${name} are left out.`);
  if (mark === '<') to.notes.push(`The content of ${name} would be read from the file "${text}", which is not here.`);
  to.parts.push({ name, fileName, contentType, bytes: mark === undefined ? bytesFromText(text) : undefined });
}

function partOptions(content: string): { readonly text: string; readonly options: ReadonlyMap<string, string> } {
  const options = new Map<string, string>();
  const quoted = /^"((?:[^"\\]|\\[\s\S])*)"/.exec(content);
  const bare =
    quoted === null
      ? (/^[\s\S]*?(?=;(?:type|filename|headers|encoder)=|$(?![\s\S]))/.exec(content)?.[0] ?? content)
      : quoted[0];
  for (const [, name = '', inQuotes, plain = ''] of content
    .slice(bare.length)
    .matchAll(
      /;\s*(type|filename|headers|encoder)=(?:"((?:[^"\\]|\\[\s\S])*)"|((?:(?!;\s*(?:type|filename|headers|encoder)=)[\s\S])*))/g,
    )) {
    options.set(name, inQuotes === undefined ? plain : unescaped(inQuotes));
  }
  return { text: quoted === null ? bare : unescaped(quoted[1] ?? ''), options };
}

const unescaped = (text: string): string => text.replace(/\\(["\\])/g, '$1');
