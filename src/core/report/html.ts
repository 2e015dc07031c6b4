import { escapeXml, inLine } from '../wording';
import type { Block, ReportDocument } from './document';

const shown = (text: string): string => escapeXml(inLine(text));

const STYLE = `
@page { size: A4; margin: 16mm 14mm; }
* { box-sizing: border-box; }
html { background: #f5f4ee; color: #1a2230; }
body { max-width: 62rem; margin: 0 auto; padding: 2rem 1.5rem; font: 15px/1.45 system-ui, sans-serif; }
h1 { margin: 0 0 1rem; font-size: 1.5rem; line-height: 1.2; }
h2 { margin: 2rem 0 .5rem; padding-top: .4rem; border-top: 2px solid #1a2230; font-size: 1.1rem; }
h2, figure { break-after: avoid; }
p { margin: .5rem 0; }
p, td, th, li { overflow-wrap: anywhere; }
ul { margin: .5rem 0; padding-left: 1.2rem; }
li { margin: .25rem 0; }
table { width: 100%; border-collapse: collapse; font-size: .87em; }
thead { display: table-header-group; }
tr { break-inside: avoid; }
th, td { padding: .25rem .5rem .25rem 0; border-bottom: 1px solid #d4cfbf; text-align: left; vertical-align: top; }
table.narrow { width: auto; min-width: 50%; }
td.number, th.number { padding-right: 1rem; text-align: right; white-space: nowrap; }
pre { overflow-x: auto; font: .8em/1.4 ui-monospace, monospace; white-space: pre-wrap; overflow-wrap: anywhere; }
figure { margin: .75rem 0; }
img { max-width: 100%; max-height: 24rem; border: 1px solid #d4cfbf; }
p.note { padding-left: .7rem; border-left: 3px solid #1a2230; }
svg { display: block; width: 100%; height: auto; }
figcaption { color: #565f6e; font-size: .87em; }
@media print { html { background: #fff; } body { max-width: none; padding: 0; font-size: 10pt; } }
`;

/** A report as one HTML file: no script, nothing fetched, and a policy that says so; made to be printed on A4. */
export const reportToHtml = ({ title, blocks }: ReportDocument): string => `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; img-src data:">
<title>${shown(title)}</title>
<style>${STYLE}</style>
</head>
<body>
<main>
<h1>${shown(title)}</h1>
${blocks.map(blockHtml).join('\n')}
</main>
</body>
</html>
`;

function blockHtml(block: Block): string {
  switch (block.type) {
    case 'heading':
      return `<h2>${shown(block.text)}</h2>`;
    case 'text':
      return `<p>${shown(block.text)}</p>`;
    case 'list':
      return `<ul>${block.items.map((item) => `<li>${shown(item)}</li>`).join('')}</ul>`;
    case 'table':
      return tableHtml(block);
    case 'lines':
      return `<pre>${block.lines.map(shown).join('\n')}</pre>`;
    case 'note':
      return `<p class="note">${block.text.split('\n').map(shown).join('<br>')}</p>`;
    case 'picture':
      return `<figure><img src="data:${escapeXml(block.mimeType)};base64,${escapeXml(block.base64)}" alt="${shown(block.alternative)}"></figure>`;
    case 'chart':
      return `<figure>${block.svg}<figcaption>${shown(block.alternative)}</figcaption></figure>`;
    default:
      return block satisfies never;
  }
}

function tableHtml({ head, rows, rightAligned }: Extract<Block, { type: 'table' }>): string {
  const cell = (name: 'td' | 'th', text: string, at: number): string =>
    `<${name}${name === 'th' ? ' scope="col"' : ''}${rightAligned.has(at) ? ' class="number"' : ''}>${shown(text)}</${name}>`;
  const headCells = head.map((text, at) => cell('th', text, at)).join('');
  const body = rows.map((row) => `<tr>${row.map((text, at) => cell('td', text, at)).join('')}</tr>`).join('\n');
  return `<table${head.length > 2 ? '' : ' class="narrow"'}><thead><tr>${headCells}</tr></thead><tbody>\n${body}\n</tbody></table>`;
}
