/** One metric of a Server-Timing header (W3C Server Timing 3): its name, how long, and what it is in words. */
export interface ServerMetric {
  readonly name: string;
  /** Absent where the metric only states that something was so. */
  readonly durationMs: number | undefined;
  readonly description: string | undefined;
}

/** Reads Server-Timing values: `db;dur=488;desc="beds", cache`. What cannot be read is left out. */
export function readServerTiming(values: readonly string[]): ServerMetric[] {
  return values
    .flatMap((value) => splitOutsideQuotes(value, ','))
    .flatMap((part) => {
      const [name = '', ...params] = splitOutsideQuotes(part, ';').map((one) => one.trim());
      if (!/^[\w!#$%&'*+.^`|~-]+$/.test(name)) return [];
      const param = (key: string): string | undefined => {
        const found = params.find((one) => one.toLowerCase().startsWith(`${key}=`));
        return found
          ?.slice(key.length + 1)
          .replace(/^"(.*)"$/s, '$1')
          .replaceAll('\\"', '"');
      };
      const durationMs = Number(param('dur') ?? Number.NaN);
      return { name, durationMs: Number.isNaN(durationMs) ? undefined : durationMs, description: param('desc') };
    });
}

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
