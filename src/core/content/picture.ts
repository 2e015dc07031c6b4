import { Parser } from 'htmlparser2';

/**
 * Elements that make a browser open a connection or another document, whatever policy the page has; those that run; and those
 * whose content is not for seeing. They go with all that is in them.
 */
const DROPPED_WHOLE = new Set([
  'script',
  'iframe',
  'object',
  'applet',
  'audio',
  'video',
  'noembed',
  'noframes',
  'template',
]);
/** The same of elements that hold nothing, or whose content stands for itself. */
const DROPPED = new Set([
  'frame',
  'frameset',
  'embed',
  'portal',
  'fencedframe',
  'link',
  'meta',
  'base',
  'html',
  'body',
  'head',
]);
/** Elements that hold nothing (WHATWG HTML 13.1.2): an end tag for them would be another element. */
const VOID = new Set(['area', 'br', 'col', 'hr', 'img', 'input', 'source', 'track', 'wbr']);

const NAME = /^[a-z][a-z0-9:._-]*$/i;

const escapeText = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;');
const escapeValue = (text: string): string => escapeText(text).replaceAll('"', '&quot;');

/**
 * The markup of a captured page made fit to be drawn: written anew from what a parser reads, without frames, scripts, handlers
 * and whatever else asks for something by itself, everything else escaped, so that no other parser can read an element where
 * none was written. Style sheets in it keep their rules: "<" stands as a CSS escape there.
 */
export function pictureMarkup(markup: string): string {
  const out: string[] = ['<!doctype html><meta charset="utf-8">'];
  const open: string[] = [];
  let inDropped = 0;
  let inStyle = false;
  const parser = new Parser(
    {
      onopentag(name, attributes) {
        if (DROPPED_WHOLE.has(name)) {
          inDropped++;
          return;
        }
        if (inDropped > 0 || DROPPED.has(name) || !NAME.test(name)) return;
        const kept = Object.entries(attributes).filter(([key]) => NAME.test(key) && !isActive(key));
        out.push(`<${name}${kept.map(([key, value]) => ` ${key}="${escapeValue(value)}"`).join('')}>`);
        if (name === 'style') inStyle = true;
        if (!VOID.has(name)) open.push(name);
      },
      ontext(text) {
        if (inDropped > 0) return;
        out.push(inStyle ? text.replaceAll('<', '\\3c ') : escapeText(text));
      },
      onclosetag(name) {
        if (DROPPED_WHOLE.has(name)) {
          inDropped = Math.max(0, inDropped - 1);
          return;
        }
        if (inDropped > 0 || open.at(-1) !== name) return;
        open.pop();
        if (name === 'style') inStyle = false;
        out.push(`</${name}>`);
      },
    },
    { decodeEntities: true, lowerCaseTags: true, lowerCaseAttributeNames: true },
  );
  parser.write(markup);
  parser.end();
  return out.join('');
}

/** Attributes that run, or that name a document of their own. */
const isActive = (name: string): boolean =>
  /^on/.test(name) || name === 'srcdoc' || name === 'ping' || name === 'autofocus';
