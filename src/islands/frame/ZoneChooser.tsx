import { useStore } from '@nanostores/react';
import { formatZone } from '#core/wording';
import { $place, goTo, ZONES, type Zone } from '../state/address';

/** Minutes east of UTC for a zone at an instant; the machine's own differ by season. */
export function offsetOf(zone: Zone, recorded: number | undefined, epoch: number): number {
  switch (zone) {
    case 'recorded':
      return recorded ?? 0;
    case 'utc':
      return 0;
    case 'machine':
      return -new Date(epoch).getTimezoneOffset();
    default:
      return zone satisfies never;
  }
}

const ZONE_WORD: Record<Zone, string> = { recorded: 'as recorded', utc: 'UTC', machine: 'this machine' };

interface ZoneChooserProps {
  /** Offset of the capture in view, in minutes east; absent on the shelf, where each has its own. */
  readonly recorded: number | undefined;
  readonly isShelf: boolean;
  readonly epoch: number;
}

/** The zone in which instants are shown, always named. */
export function ZoneChooser({ recorded, isShelf, epoch }: ZoneChooserProps) {
  const { zone } = useStore($place);
  const label = (choice: Zone): string => {
    if (choice === 'utc') return 'Times in UTC';
    if (choice === 'recorded' && isShelf) return 'Times as recorded';
    return `Times in ${formatZone(offsetOf(choice, recorded, epoch))}, ${ZONE_WORD[choice]}`;
  };
  return (
    <select
      aria-label="Time zone"
      value={zone}
      onChange={(event) => goTo({ zone: ZONES.find((known) => known === event.target.value) ?? 'recorded' })}
      className="bg-sheet px-1 text-soft"
    >
      {ZONES.map((choice) => (
        <option key={choice} value={choice}>
          {label(choice)}
        </option>
      ))}
    </select>
  );
}
