/** One of a row of texts that came one after the other: an event, or a line of JSON. */
export interface StreamRecord {
  /** An event's type, where it has one of its own. */
  readonly event: string | undefined;
  readonly id: string | undefined;
  readonly data: string;
}

const MOST_RECORDS = 200_000;

/** The events of an event stream (WHATWG HTML 9.2.6), one without data as well. A last one that was cut off is kept. */
export function readEvents(text: string): StreamRecord[] {
  const records: StreamRecord[] = [];
  let data: string[] = [];
  let event: string | undefined;
  let id: string | undefined;
  const end = (): void => {
    if (data.length > 0 || event !== undefined) records.push({ event, id, data: data.join('\n') });
    data = [];
    event = undefined;
  };
  for (const line of text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/)) {
    if (records.length >= MOST_RECORDS) return records;
    if (line === '') {
      end();
      continue;
    }
    const colon = line.indexOf(':');
    const name = colon === -1 ? line : line.slice(0, colon);
    const value = colon === -1 ? '' : line.slice(colon + 1).replace(/^ /, '');
    if (name === 'data') data.push(value);
    else if (name === 'event') event = value;
    else if (name === 'id' && !value.includes('\0')) id = value;
  }
  end();
  return records;
}

/** The texts of JSON lines, or of a JSON text sequence (RFC 7464), blank ones left out. */
export function readJsonLines(text: string): StreamRecord[] {
  const lines = text.includes('\u001e') ? text.split('\u001e') : text.split(/\r?\n/);
  const filled = lines.map((line) => line.trim()).filter((line) => line !== '');
  return filled.slice(0, MOST_RECORDS).map((data) => ({ event: undefined, id: undefined, data }));
}
