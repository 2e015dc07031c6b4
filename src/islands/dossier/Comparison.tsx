import { useCallback, useEffect, useRef } from 'react';
import { Differences } from '../compare/Differences';
import { writeExchangeName } from '../compare/load-name';
import { fetchComparison } from '../state/api';
import { Button } from '../ui/Button';
import { useFetched } from '../ui/use-fetched';

interface ComparisonProps {
  readonly captureId: string;
  readonly here: number;
  readonly there: number;
  readonly onClose: () => void;
}

/** This exchange compared with another of its capture, part by part: what differs, and how much is the same. */
export function Comparison({ captureId, here, there, onClose }: ComparisonProps) {
  const frame = useRef<HTMLElement>(null);
  const fetchIt = useCallback(
    () => fetchComparison({ capture: captureId, place: here }, { capture: captureId, place: there }),
    [captureId, here, there],
  );
  const [fetched] = useFetched(fetchIt);
  const isThere = fetched.state === 'there';
  useEffect(() => {
    if (isThere) frame.current?.scrollIntoView({ block: 'nearest' });
  }, [isThere]);
  const [one, other] = [here, there].map((place) => encodeURIComponent(writeExchangeName(captureId, place)));
  return (
    <section ref={frame} aria-label={`Compared with #${there}`} className="mt-3 border border-line p-2">
      <p className="mb-1 flex items-center justify-between gap-2">
        <b className="min-w-0 flex-1 font-semibold">
          #{here} compared with #{there}
        </b>
        <a href={`/compare?one=${one}&other=${other}`} className="text-[13px] text-soft underline hover:text-ink">
          on a page of its own
        </a>
        <Button onClick={onClose}>Close</Button>
      </p>
      {fetched.state === 'loading' ? <p className="text-soft">Comparing</p> : null}
      {fetched.state === 'failed' ? <p className="text-failed">{fetched.problem.sentence}</p> : null}
      {fetched.state === 'there' ? (
        <Differences comparison={fetched.value.comparison} here={`#${here}`} there={`#${there}`} />
      ) : null}
    </section>
  );
}
