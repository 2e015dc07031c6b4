import type { Exchange } from '#core/model';
import { logLine } from '#core/report';
import { tell } from '../state/notices';
import { copyText } from '../ui/copy';

/** What a server's log is searched with for this exchange, in the zone that is shown. */
export async function copyLogLine(exchange: Exchange, zoneMinutes: number): Promise<void> {
  const line = logLine(exchange, zoneMinutes);
  const copied = await copyText(line);
  tell(copied ? `Copied for a log search: ${line}` : 'Could not write to the clipboard.');
}
