import type { Arrived } from './echo';
import { LITERALS, type ReadLiteral } from './literals';

// Models of how VBA and Power Query's M read a program, written from their specifications and from nothing of the
// quoters: what a program would send is what is told here. What they do not understand is an error.

/** A VBA line may be so long (VBA language specification, 3.3.1: 1,023 characters in its editor). */
const MOST_VBA_CHARS = 1023;

/** What a VBA module sends when its procedure is called. */
export function readVba(source: string, environment: Readonly<Record<string, string>>): Arrived {
  const texts = new Map<string, string>();
  const headers: { name: string; value: string }[] = [];
  const declared = new Set<string>();
  let open = ['', ''];
  let body: Buffer | undefined;
  const evaluate = (expression: string): ReadLiteral => {
    let text = '';
    let rest = expression;
    for (;;) {
      const [name = ''] = /^[A-Za-z]\w*(?![\w(])/.exec(rest) ?? [];
      if (name !== '' && !name.startsWith('vb')) {
        if (!declared.has(name.toLowerCase())) throw new Error(`${name} is not declared`);
        text += texts.get(name.toLowerCase()) ?? '';
        rest = rest.slice(name.length);
      } else ({ text, rest } = addTo(text, LITERALS.VBA.read(rest)));
      if (!rest.startsWith(' & ')) return { text, rest };
      rest = rest.slice(3);
    }
  };
  const whole = (expression: string): string => {
    const { text, rest } = evaluate(expression);
    if (rest !== '') throw new Error(`something behind it: ${rest.slice(0, 60)}`);
    return text;
  };
  const [, procedure = ''] = /^Sub SendRequest\(\)\n([\s\S]*?)^End Sub$/m.exec(source) ?? [];
  for (const line of procedure.split('\n').map((one) => one.trim())) {
    if (line.length > MOST_VBA_CHARS) throw new Error(`${line.length} characters in a line`);
    const [, name = '', expression = ''] = /^([A-Za-z]\w*) = (.*)$/.exec(line) ?? [];
    const [, header = ''] = /^request\.SetRequestHeader (.*)$/.exec(line) ?? [];
    const [, opened = ''] = /^request\.Open (.*), False$/.exec(line) ?? [];
    const [, variable] = /^Environ\("(\w+)"\)$/.exec(expression) ?? [];
    if (/^Dim (\w+) As (String|Object)$/.test(line)) declared.add((line.split(' ')[1] ?? '').toLowerCase());
    else if (variable !== undefined) texts.set(name.toLowerCase(), environment[variable] ?? '');
    else if (name !== '') texts.set(name.toLowerCase(), whole(expression));
    else if (header !== '') {
      const { text, rest } = LITERALS.VBA.read(header);
      headers.push({ name: text, value: whole(rest.replace(/^, /, '')) });
    } else if (opened !== '') {
      const { text, rest } = LITERALS.VBA.read(opened);
      open = [text, whole(rest.replace(/^, /, ''))];
    } else if (line.startsWith('request.Send')) {
      const sent = line.slice('request.Send'.length).trim();
      const [, base64] = /^BytesOf\((\w+)\)$/.exec(sent) ?? [];
      if (base64 !== undefined) body = Buffer.from(texts.get(base64) ?? '', 'base64');
      else if (sent !== '' && sent !== 'content.Read') body = Buffer.from(whole(sent));
    } else if (
      !/^(Set |request\.(SetTimeouts|SetProxy|Option)|content\.|'|If |Err\.|End If|Debug\.|stream\.)/.test(line)
    ) {
      if (line !== '') throw new Error(`not understood: ${line.slice(0, 80)}`);
    }
  }
  return arrivedOf(open[0] ?? '', open[1] ?? '', headers, body);
}

const addTo = (before: string, { text, rest }: ReadLiteral): ReadLiteral => ({ text: before + text, rest });

/**
 * What a query of M sends when it is evaluated.
 * Long because it is one reader, whose parts share what is left to read.
 */
export function readPowerM(source: string, parameters: Readonly<Record<string, string>>): Arrived {
  let rest = source.replace(/^\(\) =>\s+/, '');
  const texts = new Map<string, string>();
  const take = (pattern: RegExp): RegExpExecArray | undefined => {
    const match = new RegExp(`^(?:\\s|//[^\\n]*\\n)*${pattern.source}`, pattern.flags).exec(rest);
    if (match === null) return undefined;
    rest = rest.slice(match[0].length);
    return match;
  };
  const need = (pattern: RegExp): RegExpExecArray => {
    const match = take(pattern);
    if (match === undefined) throw new Error(`${pattern.source} is not at ${rest.slice(0, 80)}`);
    return match;
  };
  const literal = (): string => {
    take(/(?=")/);
    const { text, rest: behind } = LITERALS.M.read(rest);
    rest = behind;
    return text;
  };
  const term = (): string => {
    if (/^\s*"/.test(rest)) return literal();
    const [name = ''] = need(/[A-Za-z]\w*/).map((one) => one.trim());
    const text = texts.get(name) ?? parameters[name];
    if (text === undefined) throw new Error(`${name} is nothing`);
    return text;
  };
  const expression = (): string => {
    let text = term();
    while (take(/&/) !== undefined) text += term();
    return text;
  };
  need(/let/);
  for (;;) {
    const [, name = ''] = need(/([A-Za-z]\w*) = /);
    if (name === 'response') break;
    texts.set(name, expression());
    need(/,/);
  }
  need(/Web\.Contents\(/);
  const url = expression();
  const headers: { name: string; value: string }[] = [];
  let body: Buffer | undefined;
  if (take(/,\s*\[/) !== undefined) {
    do {
      const [, member] = need(/(Headers|Content|Timeout) = /);
      if (member === 'Headers') {
        need(/\[/);
        do {
          if (take(/#(?=")/) === undefined) break;
          const name = literal();
          need(/=/);
          headers.push({ name, value: expression() });
        } while (take(/,/) !== undefined);
        need(/\]/);
      } else if (member === 'Content') {
        if (take(/Text\.ToBinary\(/) !== undefined) body = Buffer.from(expression());
        else if (take(/Binary\.FromText\(/) !== undefined) {
          body = Buffer.from(literal(), 'base64');
          need(/, BinaryEncoding\.Base64/);
        } else {
          need(/File\.Contents\(/);
          literal();
        }
        need(/\)/);
      } else need(/#duration\(0, 0, 0, [\d.]+\)/);
    } while (take(/,/) !== undefined);
    need(/\]/);
  }
  need(/\),\s*result = \S+\s+in\s+result\s*$/);
  return arrivedOf(body === undefined && !/Content = /.test(source) ? 'GET' : 'POST', url, headers, body);
}

function arrivedOf(
  method: string,
  url: string,
  headers: readonly { readonly name: string; readonly value: string }[],
  body: Buffer | undefined,
): Arrived {
  const target = url.replace(/^[a-z]+:\/\/[^/?]*\/?/i, '/');
  return { requestLine: `${method} ${target} HTTP/1.1`, headers: [...headers], body: body ?? Buffer.alloc(0) };
}
