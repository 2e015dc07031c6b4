import fc from 'fast-check';
import { Parser } from 'htmlparser2';
import { describe, expect, it } from 'vitest';
import type { Block, ReportDocument } from './document';
import { reportToHtml } from './html';
import { reportToMarkdown } from './markdown';

const everywhere = (text: string): ReportDocument => {
  const rightAligned = new Set([1]);
  const blocks: Block[] = [
    { type: 'heading', text },
    { type: 'text', text },
    { type: 'list', items: [text, text] },
    { type: 'table', head: ['a', 'b', 'c'], rows: [[text, text, text]], rightAligned },
    { type: 'lines', lines: [text] },
    { type: 'chart', svg: '<svg></svg>', alternative: text },
  ];
  return { title: text, blocks };
};

interface Read {
  readonly tags: readonly string[];
  readonly attributes: readonly string[];
  readonly text: string;
}

/** What a tokenizer of HTML sees. */
function readHtml(html: string): Read {
  const tags: string[] = [];
  const attributes: string[] = [];
  let text = '';
  const parser = new Parser({
    onopentag: (name, own) => {
      tags.push(name);
      attributes.push(...Object.keys(own));
    },
    ontext: (part) => {
      text += part;
    },
  });
  parser.end(html);
  return { tags, attributes, text };
}

const HOSTILE = [
  '</title><script>alert(1)</script>',
  '<img src=x onerror=alert(1)>',
  '"><a href="https://h.example">x</a>',
  '</pre></td></table><style>*{}</style>',
  '<!-- ',
  '&lt;b&gt; &#60;',
  ']]><svg onload=x>',
];

describe('a report as HTML', () => {
  const plain = readHtml(reportToHtml(everywhere('plain')));

  it.each(HOSTILE)('holds %s as text', (text) => {
    const read = readHtml(reportToHtml(everywhere(text)));
    expect([read.tags, read.attributes]).toEqual([plain.tags, plain.attributes]);
    expect(read.text.split(text).length).toBe(plain.text.split('plain').length);
  });

  it('holds any text so', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('<', '>', '"', "'", '&', '/', 'a', ' ', '\u2028', '\u0000', '-', '!') }),
        (text) => {
          const read = readHtml(reportToHtml(everywhere(text)));
          expect([read.tags, read.attributes]).toEqual([plain.tags, plain.attributes]);
        },
      ),
      { seed: 20, numRuns: 300 },
    );
  });

  it('has nothing that runs or is fetched', () => {
    expect(plain.tags).not.toContain('script');
    expect(plain.tags).not.toContain('link');
    for (const name of plain.attributes) expect(name).not.toMatch(/^(?:src|href|style|on.*)$/);
    expect(reportToHtml(everywhere('plain'))).not.toMatch(/url\(|@import/);
  });

  it('shows what would turn the text around', () => {
    expect(reportToHtml(everywhere('a\u202eb'))).not.toContain('\u202e');
  });
});

describe('a report as Markdown', () => {
  const textBlock = (text: string): string =>
    reportToMarkdown({ title: 't', blocks: [{ type: 'text', text }] }).slice('# t\n\n'.length, -1);

  it.each([
    ['# not a heading', '\\# not a heading'],
    ['- not a list', '\\- not a list'],
    ['12. not a list', '12\\. not a list'],
    ['3) not a list', '3\\) not a list'],
    ['---', '\\---'],
    ['> not a quote', '\\> not a quote'],
    ['*not* _strong_ `code`', '\\*not\\* \\_strong\\_ \\`code\\`'],
    ['<b>[x](y)', '\\<b\\>\\[x\\](y)'],
    ['https://h.example/a_b?x=1&y', 'https\\://h.example/a_b?x=1\\&y'],
    ['@team and a@b.example', '&#64;team and a&#64;b.example'],
    ['two\nlines', 'two\\\\nlines'],
    ['10:30, 5 s: fine', '10:30, 5 s: fine'],
  ])('%j means nothing', (text, written) => {
    expect(textBlock(text)).toBe(written);
  });

  it('keeps a cell in its column and a row on its line', () => {
    const text = reportToMarkdown({
      title: 't',
      blocks: [{ type: 'table', head: ['a', 'b'], rows: [['x | y\nz', '']], rightAligned: new Set([1]) }],
    });
    expect(text).toBe('# t\n\n| a | b |\n| --- | ---: |\n| x \\| y\\\\nz |   |\n');
  });

  it('fences lines with more marks than they hold', () => {
    const text = reportToMarkdown({ title: 't', blocks: [{ type: 'lines', lines: ['', '````', 'b <i>', ''] }] });
    expect(text).toBe('# t\n\n`````text\n````\nb <i>\n`````\n');
  });
});
