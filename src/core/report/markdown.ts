import { inLine } from '../wording';
import type { Block, ReportDocument } from './document';

/**
 * A report as Markdown (CommonMark 0.31 with the tables of GitHub's). Captured text stands as it is and means nothing: every mark
 * in it is escaped. Charts, which Markdown has none of, stand as their sentences.
 */
export const reportToMarkdown = ({ title, blocks }: ReportDocument): string =>
  `# ${escaped(title)}\n\n${blocksToMarkdown(blocks)}`;

/** Parts of a report by themselves. */
export const blocksToMarkdown = (blocks: readonly Block[]): string => `${blocks.map(blockText).join('\n\n')}\n`;

/** Marks that mean something anywhere in a line (CommonMark 2.4: any of ASCII's may stand behind a backslash). */
const MARKS = /[\\`*_{}[\]<>|~#&@:]/g;
/** What means something where a line begins: lists, headings, rules, quotes. */
const AT_START = /^(\s*)([-+=>]|\d+(?=[.)]))/;

const escaped = (text: string): string => inLine(text).trim().replace(MARKS, escapedMark);

/** A colon makes an address a link by itself, a sign "at" tells somebody: only there are they escaped. */
function escapedMark(mark: string, at: number, text: string): string {
  if (mark === ':' && !text.startsWith('://', at)) return mark;
  if (mark === '@' && !/^@\w/.test(text.slice(at, at + 2))) return mark;
  if (mark === '_' && /\w/.test(text[at - 1] ?? '') && /\w/.test(text[at + 1] ?? '')) return mark;
  return mark === '@' ? '&#64;' : `\\${mark}`;
}

const paragraph = (text: string): string =>
  escaped(text).replace(AT_START, (_, space: string, mark: string) =>
    /\d/.test(mark) ? `${space}${mark}\\` : `${space}\\${mark}`,
  );

function blockText(block: Block): string {
  switch (block.type) {
    case 'heading':
      return `## ${escaped(block.text)}`;
    case 'text':
      return paragraph(block.text);
    case 'list':
      return block.items.map((item) => `- ${paragraph(item)}`).join('\n');
    case 'table':
      return tableText(block);
    case 'lines':
      return fenced(block.lines);
    case 'note':
      return block.text
        .split('\n')
        .map((line) => `> ${paragraph(line)}`.trimEnd())
        .join('\n');
    case 'picture':
      return paragraph(`(${block.alternative} is in the HTML report.)`);
    case 'chart':
      return paragraph(block.alternative);
    default:
      return block satisfies never;
  }
}

function tableText({ head, rows, rightAligned }: Extract<Block, { type: 'table' }>): string {
  const line = (cells: readonly string[]): string => `| ${cells.map((cell) => escaped(cell) || ' ').join(' | ')} |`;
  const rule = `| ${head.map((_, at) => (rightAligned.has(at) ? '---:' : '---')).join(' | ')} |`;
  return [line(head), rule, ...rows.map(line)].join('\n');
}

/** A fence longer than any in it (CommonMark 4.5). */
function fenced(lines: readonly string[]): string {
  const text = lines
    .map(inLine)
    .join('\n')
    .replace(/^\n+|\n+$/g, '');
  const longest = Math.max(2, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = '`'.repeat(longest + 1);
  return `${fence}text\n${text}\n${fence}`;
}
