import { type ReactNode, Suspense, useEffect, useState } from 'react';
import { Boundary } from './Boundary';

interface BehindProps {
  readonly what: string;
  /** How high it will be, where what stands below it should not move. */
  readonly heightPx?: number;
  readonly children: ReactNode;
}

/** What is drawn, and its script fetched, once all that stands around it is drawn. */
export function Behind({ what, heightPx, children }: BehindProps) {
  const [isDue, setDue] = useState(false);
  useEffect(() => setDue(true), []);
  const loading = (
    <p className="mt-6 text-soft" style={{ minHeight: heightPx }}>
      Loading {what}
    </p>
  );
  return (
    <Boundary>
      <Suspense fallback={loading}>{isDue ? children : loading}</Suspense>
    </Boundary>
  );
}
