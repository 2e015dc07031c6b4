import { Suspense, useState } from 'react';
import { goTo } from '../state/address';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { later } from '../ui/later';
import { PARTS, type PartId } from './detail-parts';
import { findSplit, SPLITS, type SplitId } from './ledger-steps';
import type { ShownSides } from './use-compared';

const DetailPart = later(() => import('./DetailPart'));

interface DetailsProps {
  readonly shown: ShownSides;
  readonly split: string | undefined;
}

/** What else there is to say of two loads, each part opened where it is asked for. */
export function Details({ shown, split }: DetailsProps) {
  const [open, setOpen] = useState<PartId>();
  const { drawn } = shown.compared;
  const counts: Partial<Record<PartId, string>> = {
    causes: drawn.causes === undefined ? '' : String(drawn.causes.causes.length),
    findings:
      drawn.findings === undefined ? '…' : String(drawn.findings.filter(({ change }) => change !== 'same').length),
  };
  return (
    <section aria-label="More about the difference" className="border-line border-t">
      <div className="flex flex-wrap gap-2 px-4 py-1.5">
        {(Object.keys(PARTS) as PartId[]).map((id) => (
          <Button
            key={id}
            isMain={open === id}
            action={{ id: `part-${id}`, label: `Show or hide: ${PARTS[id].label}`, keys: [PARTS[id].key] }}
            onClick={() => setOpen(open === id ? undefined : id)}
          >
            {PARTS[id].label}
            {counts[id] === undefined || counts[id] === '' ? '' : ` ${counts[id]}`}
          </Button>
        ))}
        <span className="flex-1" />
        <Choice
          action={{ id: 'split', label: 'Choose by what the difference is split', keys: ['u'] }}
          label="Split the difference by"
          before="split by"
          value={findSplit(split)}
          options={Object.entries(SPLITS) as [SplitId, string][]}
          onChoose={(chosen) => goTo({ split: chosen === 'phase' ? undefined : chosen })}
        />
      </div>
      {open === undefined ? null : (
        // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
        <div
          tabIndex={0}
          className="max-h-72 overflow-auto border-line border-t bg-sheet px-4 py-2 text-[13px]"
          data-part={open}
        >
          <Boundary of={open}>
            <Suspense fallback={<p className="text-soft">Loading</p>}>
              <DetailPart id={open} shown={shown} />
            </Suspense>
          </Boundary>
        </div>
      )}
    </section>
  );
}
