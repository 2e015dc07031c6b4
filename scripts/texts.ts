import { readdirSync, readFileSync } from 'node:fs';
import ts from 'typescript';

// Lists every text that a user may read, with its place: npm run texts [-- PATTERN]. What stands between quotes or in JSX and
// looks like words; class names, addresses, ids and tests are left out.

/** Attributes and members whose texts are for machines. */
const FOR_MACHINES =
  /^(className|class|d|id|key|type|href|src|role|rel|name|autoComplete|viewBox|transform|strokeDasharray|data-.+|fill|stroke|icon|method|kind|tag)$/;
/** Callees whose texts are for machines. */
const MACHINE_CALLS =
  /^(require|querySelector|querySelectorAll|closest|getElementById|addEventListener|matchMedia|text|real|integer|sqliteTable|index|log|debug)$/;

const pattern = process.argv[2] === undefined ? undefined : new RegExp(process.argv[2], 'i');
const files = readdirSync('src', { recursive: true, encoding: 'utf8' })
  .filter((file) => /\.(ts|tsx|astro)$/.test(file) && !/\.test\.ts|\/testing\/|\.d\.ts$|^causes\//.test(file))
  .map((file) => `src/${file}`);
let count = 0;
for (const file of files.sort()) {
  const text = readFileSync(file, 'utf8');
  const source = ts.createSourceFile(file, text, ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
  visit(source, (node, words) => {
    const isWords =
      /[\p{L}]{2}/u.test(words) && (/[\p{L}] [\p{L}]/u.test(words) || ts.isJsxText(node) || isLabel(node));
    if (!isWords || (pattern !== undefined && !pattern.test(words))) return;
    const { line } = source.getLineAndCharacterOfPosition(node.getStart());
    console.log(`${file}:${line + 1}\t${words.replaceAll(/\s+/g, ' ').trim()}`);
    count++;
  });
}
console.error(`${count} texts`);

function visit(node: ts.Node, onText: (node: ts.Node, words: string) => void): void {
  if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isLiteralTypeNode(node)) return;
  if (ts.isJsxAttribute(node) && FOR_MACHINES.test(node.name.getText())) return;
  if (ts.isPropertyAssignment(node) && FOR_MACHINES.test(node.name.getText())) return;
  if (ts.isCallExpression(node) && MACHINE_CALLS.test(node.expression.getText().split('.').at(-1) ?? '')) return;
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) onText(node, node.text);
  else if (ts.isJsxText(node)) onText(node, node.text);
  else if (ts.isTemplateExpression(node)) {
    const spans = node.templateSpans.map(({ expression, literal }) => `{${expression.getText()}}${literal.text}`);
    onText(node, node.head.text + spans.join(''));
  }
  ts.forEachChild(node, (child) => visit(child, onText));
}

/** A single word that is shown: under a member or an attribute that holds texts. */
function isLabel({ parent }: ts.Node): boolean {
  const name = ts.isPropertyAssignment(parent) || ts.isJsxAttribute(parent) ? parent.name.getText() : undefined;
  return (
    name !== undefined &&
    /^(label|title|says|placeholder|aria-label|name|sentence|remedy|claim|detail|advice)$/.test(name)
  );
}
