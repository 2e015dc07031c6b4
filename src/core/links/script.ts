import { parser } from '@lezer/javascript';
import { couldBeAddress, type Tell } from './named';

/** Longer scripts are read so far: what they load at first stands in their beginning or in small scripts. */
const READ_CHARS = 4_000_000;

/**
 * The texts in a script that can be addresses: quoted ones, and those put together by templates and plus signs, with
 * the script's own constants filled in. What is imported is resolved against the script itself, all else against the
 * page (ECMAScript 12.9.4, 12.9.6, 13.8.1, 16.2.2).
 */
export function linksInScript(text: string, tell: Tell): void {
  const source = text.slice(0, READ_CHARS);
  const root = parser.parse(source);
  const constants = new Constants(source, root.topNode);
  const cursor = root.cursor();
  do {
    const node: SyntaxNode = cursor.node;
    if (cursor.name === 'String') tellString(node, source, constants, tell);
    else if (cursor.name === 'TemplateString') {
      if (node.parent?.name !== 'BinaryExpression') tellPieces(piecesOf(node, source, constants), tell);
    } else if (cursor.name === 'BinaryExpression' && isSum(node) && !(node.parent !== null && isSum(node.parent))) {
      tellPieces(piecesOf(node, source, constants), tell);
    }
  } while (cursor.next());
}

interface SyntaxNode {
  readonly name: string;
  readonly from: number;
  readonly to: number;
  readonly parent: SyntaxNode | null;
  readonly firstChild: SyntaxNode | null;
  readonly nextSibling: SyntaxNode | null;
}

function tellString(node: SyntaxNode, source: string, constants: Constants, tell: Tell): void {
  const value = unquote(source.slice(node.from, node.to));
  if (!couldBeAddress(value)) return;
  const { parent } = node;
  // A part of a sum, and a constant that is put into other texts, tell more where they are put together.
  if (parent?.name === 'BinaryExpression' || constants.isUsedAt(node.from)) return;
  const isImport = parent?.name === 'ImportDeclaration' || parent?.name === 'ExportDeclaration';
  if (isImport || isDynamicImport(parent, source)) tell({ type: 'link', url: value, base: 'self' });
  else tell({ type: 'quoted', text: value });
}

function tellPieces(pieces: readonly string[], tell: Tell): void {
  const [only] = pieces;
  if (pieces.length > 1) tell({ type: 'pattern', pieces });
  else if (only !== undefined && couldBeAddress(only)) tell({ type: 'quoted', text: only });
}

/** `import("./x.js")`: the string is the argument of a call whose callee is the word import. */
const isDynamicImport = (argument: SyntaxNode | null, source: string): boolean =>
  argument?.name === 'DynamicImport' ||
  (argument?.name === 'ArgList' && /import\s*$/.test(source.slice(Math.max(0, argument.from - 10), argument.from)));

/** A sum: its operator is a plus sign. */
function isSum(node: SyntaxNode): boolean {
  if (node.name !== 'BinaryExpression') return false;
  const operator = node.firstChild?.nextSibling;
  return operator?.name === 'ArithOp' && operator.to - operator.from === 1;
}

/** Texts that a script gives a name to once and for all. */
class Constants {
  readonly #source: string;
  readonly #values = new Map<string, { readonly value: string; readonly from: number } | 'several'>();
  readonly #used = new Set<number>();

  constructor(source: string, top: SyntaxNode) {
    this.#source = source;
    for (let node = top.firstChild; node !== null; node = node.nextSibling) {
      const declaration = node.name === 'ExportDeclaration' ? childNamed(node, 'VariableDeclaration') : node;
      if (declaration?.name === 'VariableDeclaration') this.#declare(declaration);
    }
  }

  /** The value of a name, remembered as one that is put into another text. */
  take(name: string): string | undefined {
    const found = this.#values.get(name);
    if (found === undefined || found === 'several') return undefined;
    this.#used.add(found.from);
    return found.value;
  }

  /** True for the text that is given a name which sums and templates use. */
  isUsedAt(from: number): boolean {
    if (this.#used.has(from)) return true;
    for (const [name, found] of this.#values) {
      if (found !== 'several' && found.from === from) {
        // Looked for in the source, as the uses mostly come later than the name is given.
        const isUsed = new RegExp(`\\$\\{\\s*${name}\\b|\\b${name}\\s*\\+|\\+\\s*${name}\\b`).test(this.#source);
        if (isUsed) this.#used.add(from);
        return isUsed;
      }
    }
    return false;
  }

  #declare(declaration: SyntaxNode): void {
    let name: string | undefined;
    for (let child = declaration.firstChild; child !== null; child = child.nextSibling) {
      if (child.name === 'VariableDefinition') name = this.#source.slice(child.from, child.to);
      if (child.name !== 'String' || name === undefined) continue;
      const value = unquote(this.#source.slice(child.from, child.to));
      if (/^[\w]+$/.test(name))
        this.#values.set(name, this.#values.has(name) ? 'several' : { value, from: child.from });
      name = undefined;
    }
  }
}

function childNamed(node: SyntaxNode, name: string): SyntaxNode | undefined {
  for (let child = node.firstChild; child !== null; child = child.nextSibling) if (child.name === name) return child;
  return undefined;
}

/** What a template or a sum is put together of: known texts, with unknown ones between them. */
function piecesOf(node: SyntaxNode, source: string, constants: Constants): string[] {
  const pieces = [''];
  const add = (text: string | undefined): void => {
    if (text === undefined) pieces.push('');
    else pieces.push((pieces.pop() ?? '') + text);
  };
  const walk = (part: SyntaxNode): void => {
    if (part.name === 'String') add(unquote(source.slice(part.from, part.to)));
    else if (part.name === 'VariableName') add(constants.take(source.slice(part.from, part.to)));
    else if (part.name === 'TemplateString') {
      let from = part.from + 1;
      for (let child = part.firstChild; child !== null; child = child.nextSibling) {
        if (child.name !== 'Interpolation') continue;
        add(source.slice(from, child.from));
        const inner = child.firstChild?.nextSibling;
        add(inner?.name === 'VariableName' ? constants.take(source.slice(inner.from, inner.to)) : undefined);
        from = child.to;
      }
      add(source.slice(from, Math.max(from, part.to - 1)));
    } else if (isSum(part)) {
      for (let child = part.firstChild; child !== null; child = child.nextSibling)
        if (child.name !== 'ArithOp') walk(child);
    } else add(undefined);
  };
  walk(node);
  return pieces;
}

/** Escapes matter little in addresses: slashes and hexadecimal ones do occur. */
const unquote = (quoted: string): string =>
  quoted
    .slice(1, -1)
    .replace(/\\x([0-9a-f]{2})|\\u([0-9a-f]{4})/gi, (_, a?: string, b?: string) =>
      String.fromCharCode(Number.parseInt(a ?? b ?? '', 16)),
    )
    .replace(/\\(.)/g, '$1');
