import { type GroupComparison, LEAST_OF_GROUP, nameShared, tellGroup } from '#core/compare';
import { formatMs, signedMs } from '#core/wording';
import type { LoadHead } from '../../workers/compare.worker';
import { goTo } from '../state/address';
import { Behind } from '../ui/Behind';
import { Button } from '../ui/Button';
import { Nothing } from '../ui/Problem';
import { LoadLink } from './LoadsOfSides';
import { LOAD_CHART_PX, LoadChart } from './later-chart';
import { writeLoadName } from './load-name';

interface GroupViewProps {
  readonly heads: readonly LoadHead[];
  readonly group: GroupComparison | undefined;
  readonly onChoose: () => void;
}

/** One group of loads: which are slow, and what these share. Long because it is the markup of one page. */
export default function GroupView({ heads, group, onChoose }: GroupViewProps) {
  if (group === undefined)
    return (
      <Nothing
        sentence={`What slow loads share can be told of ${LEAST_OF_GROUP} loads and more whose exchanges have starts; ${heads.length} are chosen.`}
        advice="Choose more for one side, or loads for both sides."
      >
        <Button onClick={onChoose}>Choose others</Button>
      </Nothing>
    );
  const slow = new Set(group.slow);
  const [first, ...more] = tellGroup(group);
  const names = (isSlow: boolean): string[] =>
    heads.flatMap(({ load }, at) =>
      slow.has(at) === isSlow && group.summary.loadsMs[at] !== undefined ? [writeLoadName(load)] : [],
    );
  const inOrder = heads
    .map((head, at) => ({ head, ms: group.summary.loadsMs[at], isSlow: slow.has(at) }))
    .sort((one, other) => (other.ms ?? -1) - (one.ms ?? -1));
  return (
    // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
    <div data-home="" tabIndex={0} className="min-h-0 flex-1 overflow-auto px-4 py-3 outline-none">
      <h2 className="font-bold text-lg leading-6">{first}</h2>
      <p>{more.join(' ')}</p>
      <p className="my-2">
        <Button
          isMain
          action={{ id: 'slow-against-quick', label: 'Compare the quick loads with the slow ones', keys: ['m'] }}
          onClick={() => goTo({ sideA: names(false), sideB: names(true) })}
        >
          Compare the quick with the slow
        </Button>
      </p>
      <Behind what="the chart" heightPx={LOAD_CHART_PX}>
        <LoadChart
          loads={heads.map((head, at) => ({ head, ms: group.summary.loadsMs[at], isMarked: slow.has(at) }))}
          markWords="slow"
        />
      </Behind>
      <h3 className="mt-3 font-semibold">What explains most of it, by endpoint, host, phase, source and status</h3>
      <table className="text-[13px]">
        <tbody>
          {group.shared.map((one) => (
            <tr key={`${one.dimension} ${one.value}`} className="border-grid border-t">
              <td className="pr-4 text-right font-mono">{signedMs(one.ms)}</td>
              <th scope="row" className="pr-6 text-left font-normal">
                {nameShared(one)}
              </th>
              <td className="text-soft">{slow.size === 1 ? '' : `in ${one.inLoads} of the ${slow.size} slow loads`}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3 className="mt-3 font-semibold">Loads, the slowest first</h3>
      <ul className="max-w-3xl text-[13px]">
        {inOrder.map(({ head, ms, isSlow }) => (
          <li key={writeLoadName(head.load)} className="flex justify-between gap-4 border-grid border-t">
            <LoadLink head={head} />
            <span className="whitespace-nowrap font-mono">
              {isSlow ? <span className="pr-3 font-bold font-sans">slow</span> : null}
              {formatMs(ms)}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
