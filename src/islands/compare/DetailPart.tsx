import type { ReactNode } from 'react';
import { CachePart } from './CachePart';
import { CauseList } from './CauseList';
import { ConnectionPart } from './ConnectionPart';
import type { PartId } from './detail-parts';
import { FindingChanges } from './FindingChanges';
import { HostsField } from './HostsField';
import { LoadsOfSides } from './LoadsOfSides';
import { SumTables } from './SumTables';
import type { ShownSides } from './use-compared';

interface DetailPartProps {
  readonly id: PartId;
  readonly shown: ShownSides;
}

/** One of what can be opened between the difference and the pairs. */
export default function DetailPart({ id, shown }: DetailPartProps): ReactNode {
  const { drawn } = shown.compared;
  switch (id) {
    case 'causes':
      return <CauseList shown={shown} />;
    case 'findings':
      return <FindingChanges drawn={drawn} />;
    case 'sums':
      return <SumTables shown={shown} />;
    case 'cache':
      return <CachePart shown={shown} />;
    case 'connection':
      return <ConnectionPart drawn={drawn} />;
    case 'loads':
      return (
        <>
          <LoadsOfSides shown={shown} />
          <HostsField />
        </>
      );
    default:
      return id satisfies never;
  }
}
