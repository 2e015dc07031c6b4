/** Every value of an array. */
export const EACH: unique symbol = Symbol('each');
/** A way through JSON from its outermost value: members by name, places of arrays by number, or each of them. */
export type JsonSteps = readonly (string | number | typeof EACH)[];

/** How a path is written: RFC 9535's JSONPath, JavaScript, Python, or jq's filter. */
export const PATH_STYLES = ['jsonpath', 'javascript', 'python', 'jq'] as const;
export type PathStyle = (typeof PATH_STYLES)[number];

const PLAIN_NAME = /^[A-Za-z_]\w*$/;
const ROOT: Record<PathStyle, string> = { jsonpath: '$', javascript: 'data', python: 'data', jq: '' };

/** One step of a path. A name in quotes is written as JSON has it, which all four of them read. */
export function writeStep(step: JsonSteps[number], style: PathStyle = 'jsonpath'): string {
  if (step === EACH) return style === 'jq' ? '[]' : '[*]';
  if (typeof step === 'number') return `[${step}]`;
  return style !== 'python' && PLAIN_NAME.test(step) ? `.${step}` : `[${JSON.stringify(step)}]`;
}

export function writePath(steps: JsonSteps, style: PathStyle = 'jsonpath'): string {
  const path = ROOT[style] + steps.map((step) => writeStep(step, style)).join('');
  return style !== 'jq' || path.startsWith('.') ? path : `.${path}`;
}

/** Reads a path in JSONPath's plain form, as in $.items[0].name, with [*] for each of an array; undefined for others. */
export function readPath(text: string): JsonSteps | undefined {
  const steps: JsonSteps[number][] = [];
  const token = /^(?:\.?\[(\d+|\*)\]|\.?\[(?:'((?:[^'\\]|\\.)*)'|("(?:[^"\\]|\\.)*"))\]|\.?([^.[\]\s'"]+))/;
  for (let at = text.trim().replace(/^\$/, ''); at !== ''; ) {
    const match = token.exec(at);
    if (match === null) return undefined;
    const [whole, place, single, double, plain = ''] = match;
    const name = double === undefined ? single?.replace(/\\(.)/g, '$1') : readQuoted(double);
    if (place !== undefined) steps.push(place === '*' ? EACH : Number(place));
    else steps.push(name ?? plain);
    at = at.slice(whole.length);
  }
  return steps;
}

function readQuoted(text: string): string {
  try {
    return JSON.parse(text) as string;
  } catch {
    return text.slice(1, -1).replace(/\\(.)/g, '$1');
  }
}
