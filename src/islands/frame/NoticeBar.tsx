import { useStore } from '@nanostores/react';
import { $notice } from '../state/notices';
import { Button } from '../ui/Button';

/** The last notice, above everything at the foot of the screen. */
export function NoticeBar() {
  const notice = useStore($notice);
  return (
    <div role="status" className="pointer-events-none fixed bottom-4 left-24 z-40">
      {notice === undefined ? null : (
        <div className="pointer-events-auto flex max-w-2xl items-center gap-4 border border-ink bg-sheet px-4 py-2.5">
          <div>
            <p className="font-semibold">{notice.text}</p>
            {notice.detail === undefined ? null : <p className="text-soft">{notice.detail}</p>}
          </div>
          {notice.action === undefined ? null : <Button onClick={notice.action.run}>{notice.action.label}</Button>}
        </div>
      )}
    </div>
  );
}
