import { useStore } from '@nanostores/react';
import { formatCount } from '#core/wording';
import type { Shown } from '../capture/use-shown';
import { $typed } from '../filter/typed';
import { $place, goTo } from '../state/address';
import { Button } from '../ui/Button';
import { Problem } from '../ui/Problem';

/** Every exchange is filtered out or hidden: says by what, and offers the way back. */
export function NothingLeft({ shown }: { readonly shown: Shown }) {
  const place = useStore($place);
  const typed = useStore($typed);
  // What is still being typed is not in the address yet.
  const filter = typed ?? place.filter;
  const count = shown.arrangement.placed.length;
  return (
    <Problem
      // The bar says at each letter that nothing matches; this is said once the filter stands.
      key={typed === undefined ? 'said' : 'quiet'}
      isQuiet={typed !== undefined}
      problem={{
        sentence:
          filter === ''
            ? 'Everything on this page is hidden.'
            : count === 1
              ? 'The only exchange does not match this filter.'
              : `None of the ${formatCount(count)} exchanges matches this filter.`,
        advice: filter === '' ? 'Show again what is hidden.' : 'Change it in the bar above, or clear it.',
      }}
    >
      {filter === '' ? null : <Button onClick={clearFilter}>Clear the filter</Button>}
      {shown.hidden.size === 0 ? null : <Button onClick={() => goTo({ hidden: [] })}>Show what is hidden</Button>}
    </Problem>
  );
}

function clearFilter(): void {
  $typed.set(undefined);
  goTo({ filter: '' });
}
