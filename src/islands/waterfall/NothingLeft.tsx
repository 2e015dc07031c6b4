import { useStore } from '@nanostores/react';
import type { Shown } from '../capture/use-shown';
import { $place, goTo } from '../state/address';
import { Button } from '../ui/Button';
import { Problem } from '../ui/Problem';

/** Every exchange is sifted out or hidden: says by what, and offers the way back. */
export function NothingLeft({ shown }: { readonly shown: Shown }) {
  const { sift } = useStore($place);
  return (
    <Problem
      problem={{
        sentence:
          sift === ''
            ? 'Everything on this page is hidden.'
            : `None of the ${shown.arrangement.placed.length} exchanges is let through by this sift.`,
        advice: sift === '' ? 'Show again what is hidden.' : 'Change it in the bar above, or clear it.',
      }}
    >
      {sift === '' ? null : <Button onClick={() => goTo({ sift: '' })}>Clear the sift</Button>}
      {shown.hidden.size === 0 ? null : <Button onClick={() => goTo({ hidden: [] })}>Show what is hidden</Button>}
    </Problem>
  );
}
