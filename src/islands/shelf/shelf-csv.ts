import { savedShare } from '#core/analysis';
import { toCsv } from '#core/report';
import type { CaptureCard } from '#core/wire';
import { formatPlural } from '#core/wording';
import { csvFile } from '../export/csv';
import { saveFile } from '../export/save-file';
import { tell } from '../state/notices';

const HEADER = [
  'name',
  'recordedAt',
  'recorder',
  'browser',
  'pages',
  'exchanges',
  'failed',
  'wireBytes',
  'bodyBytes',
  'savedShare',
  'domReadyMs',
  'loadedMs',
  'sentence',
  'note',
  'fileBytes',
  'id',
] as const;

/** Captures as a table: what their cards say, times of the first page that has exchanges. */
export function shelfCsv(cards: readonly CaptureCard[]): string {
  return toCsv(
    HEADER,
    cards.map(({ id, name, recorder, browser, note, fileBytes, overview }) => {
      const { tally, pages, recordedAt, sentence } = overview;
      const page = pages.find(({ exchanges }) => exchanges > 0);
      return [
        name,
        recordedAt === undefined ? undefined : new Date(recordedAt).toISOString(),
        recorder,
        browser,
        pages.length,
        tally.exchanges,
        tally.failed,
        tally.wireBytes,
        tally.bodyBytes,
        savedShare(tally),
        page?.domReadyMs,
        page?.loadedMs,
        sentence,
        note,
        fileBytes,
        id,
      ];
    }),
  );
}

export function saveShelf(cards: readonly CaptureCard[]): void {
  saveFile('shelf.csv', csvFile(shelfCsv(cards)));
  tell(`Saved shelf.csv: ${formatPlural(cards.length, 'capture')}.`);
}
