/** One metric of a Server-Timing header (W3C Server Timing 3): its name, how long, and what it is in words. */
export interface ServerMetric {
  readonly name: string;
  /** Absent where the metric only states that something was so. */
  readonly durationMs: number | undefined;
  readonly description: string | undefined;
}

/** Characters of a token (RFC 9110 5.6.2). */
const TOKEN = /[!#$%&'*+.^_`|~0-9A-Za-z-]+/y;
const QUOTED = /"((?:[^"\\]|\\.)*)"/sy;
/** What browsers take for a number; anything else says nothing. */
const NUMBER = /^[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?$/i;

/**
 * Reads Server-Timing values as browsers do (W3C Server Timing 3.2): `db;dur=488;desc="beds", cache`. Of a parameter that
 * stands twice the first counts, and what stands behind a name or a value without belonging to it is passed over.
 */
export function readServerTiming(values: readonly string[]): ServerMetric[] {
  return values
    .flatMap((value) => splitOutsideQuotes(value, ','))
    .flatMap((part) => {
      const [name = '', ...given] = splitOutsideQuotes(part, ';').map((one) => one.trim());
      const own = tokenAt(name, 0);
      if (own === '') return [];
      const params = new Map<string, string>();
      for (const one of given) {
        const key = tokenAt(one, 0);
        const equals = /^\s*=\s*/.exec(one.slice(key.length));
        const at = key.length + (equals?.[0].length ?? 0);
        const known = key.toLowerCase();
        if (key !== '' && !params.has(known)) params.set(known, equals === null ? '' : valueAt(one, at));
      }
      const duration = params.get('dur') ?? '';
      return {
        name: own,
        durationMs: NUMBER.test(duration) ? Number(duration) : undefined,
        description: params.get('desc'),
      };
    });
}

function matchAt(pattern: RegExp, text: string, at: number): RegExpExecArray | null {
  pattern.lastIndex = at;
  return pattern.exec(text);
}

const tokenAt = (text: string, at: number): string => matchAt(TOKEN, text, at)?.[0] ?? '';

/** A value in quotes, its marks taken out, or a token. */
const valueAt = (text: string, at: number): string =>
  matchAt(QUOTED, text, at)?.[1]?.replace(/\\(.)/gs, '$1') ?? tokenAt(text, at);

function splitOutsideQuotes(text: string, separator: string): string[] {
  const parts: string[] = [];
  let start = 0;
  let isQuoted = false;
  for (let at = 0; at < text.length; at++) {
    const char = text.charAt(at);
    if (char === '\\' && isQuoted) at++;
    else if (char === '"') isQuoted = !isQuoted;
    else if (char === separator && !isQuoted) {
      parts.push(text.slice(start, at));
      start = at + 1;
    }
  }
  return [...parts, text.slice(start)];
}
