import fc from 'fast-check';
import { Parser } from 'htmlparser2';
import { describe, expect, it } from 'vitest';
import { pictureMarkup } from './picture';

/** Names of the elements that a browser might open something for, as the markup that is drawn has them. */
function elementsOf(markup: string): string[] {
  const names: string[] = [];
  const parser = new Parser({ onopentagname: (name) => void names.push(name.toLowerCase()) });
  parser.write(markup);
  parser.end();
  return names;
}

describe('the picture of a captured page', () => {
  it('keeps its text, its structure and its styles', () => {
    const drawn = pictureMarkup(
      '<html lang=es><head><title>Huts</title><style>p > b { color: red }</style></head><body class="a"><p id="x">3 &lt; 4 <b>beds</b><br>left</p><img src="data:image/png;base64,AA==" alt="a &quot;hut&quot;"></body></html>',
    );
    expect(drawn).toContain('<style>p > b { color: red }</style>');
    expect(drawn).toContain('<p id="x">3 &lt; 4 <b>beds</b><br>left</p>');
    expect(drawn).toContain('<img src="data:image/png;base64,AA==" alt="a &quot;hut&quot;">');
  });

  const HOSTILE = [
    '<iframe src="http://t.example/f"></iframe>',
    '<IFRAME/src=//t.example>',
    '<frameset><frame src=http://t.example></frameset>',
    '<object data=http://t.example></object><embed src=http://t.example>',
    '<svg><style><iframe src=http://t.example></iframe></style></svg>',
    '<svg><foreignObject><iframe src=http://t.example></iframe></foreignObject></svg>',
    '<math><mtext><style><!--</style><iframe src=http://t.example>--></style>',
    '<noscript><p title="</noscript><iframe src=http://t.example>">',
    '<textarea></textarea><iframe src=x></iframe>',
    '<title><iframe src=http://t.example></title>',
    '<xmp><iframe src=http://t.example></xmp><plaintext><iframe src=http://t.example>',
    '<!--><iframe src=http://t.example>-->',
    '<![CDATA[<iframe src=http://t.example>]]>',
    '<p title="<iframe src=x>"><a href="javascript:alert(1)" onclick=alert(1)>',
    '<template><iframe src=x></iframe></template><portal src=x></portal>',
    '<meta http-equiv=refresh content="0;url=http://t.example"><base href=http://t.example><link rel=preconnect href=http://t.example>',
    '<img src=x srcdoc="<iframe>"><iframe srcdoc="x">',
    '<style>a{}</style ><iframe src=x>',
    '<script>document.write("<iframe src=x>")</script>',
  ];
  const BANNED = new Set([
    'iframe',
    'frame',
    'frameset',
    'object',
    'embed',
    'portal',
    'applet',
    'script',
    'meta',
    'base',
    'link',
    'template',
  ]);

  it('has nothing in it that opens a connection or another document, also for parsers that read raw text otherwise', () => {
    for (const markup of HOSTILE) {
      const drawn = pictureMarkup(markup).replace('<!doctype html><meta charset="utf-8">', '');
      expect([markup, elementsOf(drawn).filter((name) => BANNED.has(name))]).toEqual([markup, []]);
      // Whatever is taken for raw text: no element begins anywhere in it.
      expect(drawn).not.toMatch(/<\/?(?:iframe|frame|object|embed|script|meta|link)/i);
      expect(drawn).not.toMatch(/\son\w+=/i);
    }
  });

  it('holds for pieces of such markup in any order', () => {
    const piece = fc.constantFrom(
      ...HOSTILE,
      '<svg>',
      '</svg>',
      '<style>',
      '</style>',
      '<!--',
      '-->',
      '"',
      "'",
      '<p ',
      '>',
      '<math>',
      'text',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        const drawn = pictureMarkup(pieces.join('')).replace('<!doctype html><meta charset="utf-8">', '');
        expect(drawn).not.toMatch(/<\/?(?:iframe|frame|object|embed|script|meta|link)/i);
      }),
      { numRuns: 500 },
    );
  });
});
