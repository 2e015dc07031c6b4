import { tell } from '../state/notices';

/** What tells of a met condition beside the page. */
export interface NoticeWanted {
  readonly isNotice: boolean;
  readonly isSound: boolean;
}

const NOTE_HZ = [660, 880];
const NOTE_S = 0.18;

/** Says that a watch has met its condition: on the page, by the system's notice and by a sound where these are wanted. */
export function giveNotice(sentence: string, { isNotice, isSound }: NoticeWanted): void {
  tell(sentence);
  if (isNotice && 'Notification' in window && Notification.permission === 'granted')
    new Notification('Trazado', { body: sentence });
  if (isSound) sound();
}

/** Two short notes. A browser that lets the page make none is silent. */
function sound(): void {
  try {
    const context = new AudioContext();
    for (const [at, hz] of NOTE_HZ.entries()) {
      const note = context.createOscillator();
      note.frequency.value = hz;
      note.connect(context.destination);
      note.start(context.currentTime + at * NOTE_S);
      note.stop(context.currentTime + (at + 1) * NOTE_S);
    }
    setTimeout(() => void context.close(), 1000);
  } catch {
    // The notice on the page stands.
  }
}

interface NoticeChoiceProps {
  readonly wanted: NoticeWanted;
  readonly onWanted: (wanted: NoticeWanted) => void;
}

/** Whether the system shows a notice, and a sound is heard, when the condition is met while the page is open. */
export function NoticeChoice({ wanted, onWanted }: NoticeChoiceProps) {
  const { isNotice, isSound } = wanted;
  const set = (change: Partial<NoticeWanted>): void => onWanted({ ...wanted, ...change });
  const ask = async (isWanted: boolean): Promise<void> => {
    if (!isWanted) return set({ isNotice: false });
    const answer = 'Notification' in window ? await Notification.requestPermission() : 'denied';
    if (answer === 'granted') set({ isNotice: true });
    else tell('The browser does not allow this page to show notices.');
  };
  return (
    <span className="mt-2 flex flex-wrap gap-4 text-soft">
      <label className="flex items-center gap-1">
        <input type="checkbox" checked={isNotice} onChange={({ target }) => void ask(target.checked)} />a notice of the
        system when it is met
      </label>
      <label className="flex items-center gap-1">
        <input type="checkbox" checked={isSound} onChange={({ target }) => set({ isSound: target.checked })} />
        and a sound
      </label>
    </span>
  );
}
