import { useCallback, useMemo, useState } from 'react';
import type { CallField, Course, Variation } from '#core/analysis';
import { formatCount, formatMs, formatPlural } from '#core/wording';
import { MarkSign } from '../marks/MarkSign';
import { goTo } from '../state/address';
import { fetchVariation } from '../state/api';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { StatusMark, statusWord } from '../ui/status';
import { useFetched } from '../ui/use-fetched';
import type { Placed } from '../waterfall/arrange';

interface CallMatrixProps {
  readonly captureId: string;
  readonly calls: readonly Placed[];
}

/** More calls side by side nobody compares. */
const COMPARED = 60;

/** Which parameters, headers and payload fields vary over the calls to an endpoint, and which stay. */
export function CallMatrix({ captureId, calls }: CallMatrixProps) {
  const places = useMemo(() => calls.slice(0, COMPARED).map(({ row }) => row.index), [calls]);
  const fetchIt = useCallback(() => fetchVariation(captureId, places), [captureId, places]);
  const [fetched, again] = useFetched(fetchIt);
  switch (fetched.state) {
    case 'loading':
      return <Loading what="the calls" />;
    case 'failed':
      return (
        <Problem problem={fetched.problem}>
          <Button onClick={again}>Try again</Button>
        </Problem>
      );
    case 'there':
      return <Matrix captureId={captureId} variation={fetched.value} calls={calls} />;
    default:
      return fetched satisfies never;
  }
}

interface MatrixProps {
  readonly captureId: string;
  readonly variation: Variation;
  readonly calls: readonly Placed[];
}

/** Long because it is one drawing, whose parts share one scale. */
function Matrix({ captureId, variation, calls }: MatrixProps) {
  const [showsSteady, setShowsSteady] = useState(false);
  const varying = variation.fields.filter(({ course }) => course.type !== 'stays');
  const steady = variation.fields.filter(({ course }) => course.type === 'stays');
  const shown = calls.slice(0, variation.calls.length);
  const more = calls.length - shown.length;
  const loopOver = async ({ group, name, values, course }: CallField): Promise<void> => {
    const first = shown[0]?.row.index;
    if (first === undefined) return;
    const step = course.type === 'counts' ? String(course.step) : '1';
    const { openDraft } = await import('../drafts/open-draft');
    const parameter = group === 'path' ? name.replace('segment ', 'path.') : name;
    await openDraft(captureId, first, { kind: 'pages', parameter, from: values[0] ?? '0', step });
  };
  return (
    <div className="px-4 py-3">
      <p className="mb-2 text-soft">
        {calls.length === 1
          ? 'Requested once; nothing to compare.'
          : varying.length === 0
            ? `Nothing varies over these ${formatPlural(calls.length, 'call')}.`
            : `${formatPlural(varying.length, 'field')} ${varying.length === 1 ? 'varies' : 'vary'} from call to call, ${steady.length} stay.`}
        {more > 0
          ? ` Comparing the first ${COMPARED} of ${formatCount(COMPARED + more)} calls; filter to choose others.`
          : ''}
      </p>
      {/* In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1). */}
      <section aria-label="Calls side by side" tabIndex={0} className="overflow-x-auto border border-line outline-none">
        <table className="border-collapse text-[12px]">
          <thead>
            <tr className="border-line border-b bg-paper text-left">
              <th className="sticky left-0 z-10 min-w-56 bg-paper px-2 py-1 font-normal text-soft">field</th>
              <th className="min-w-40 px-2 font-normal text-soft">from call to call</th>
              {shown.map(({ row }) => {
                const word = statusWord(row);
                return (
                  <th key={row.index} className="px-2 py-1 font-normal">
                    <button
                      type="button"
                      onClick={() => goTo({ exchange: row.index, isOpen: true, hit: undefined })}
                      className="font-semibold underline"
                    >
                      #{row.index} <MarkSign index={row.index} />
                    </button>{' '}
                    <span className="text-soft">{formatMs(row.timeMs)}</span>{' '}
                    {word === undefined ? null : <StatusMark row={row} word={word} />}
                  </th>
                );
              })}
            </tr>
          </thead>
          <tbody>
            {varying.map((field) => (
              <FieldRow key={`${field.group} ${field.name}`} field={field} onLoop={loopOver} />
            ))}
            {showsSteady
              ? steady.map((field) => <FieldRow key={`${field.group} ${field.name}`} field={field} />)
              : null}
          </tbody>
        </table>
      </section>
      {steady.length === 0 ? null : (
        <p className="mt-2">
          <button
            type="button"
            aria-expanded={showsSteady}
            onClick={() => setShowsSteady(!showsSteady)}
            className="underline"
          >
            {showsSteady ? 'Hide' : 'Show'} the {formatPlural(steady.length, 'field')} that{' '}
            {steady.length === 1 ? 'stays' : 'stay'}
          </button>
        </p>
      )}
    </div>
  );
}

function courseWords(course: Course): string {
  switch (course.type) {
    case 'stays':
      return 'stays';
    case 'counts':
      return course.step > 0 ? `counts up by ${course.step}` : `counts down by ${-course.step}`;
    case 'cursor':
      return 'cursor from the previous response';
    case 'varies':
      return 'varies';
    default:
      return course satisfies never;
  }
}

interface FieldRowProps {
  readonly field: CallField;
  /** Writes code that goes through its values. */
  readonly onLoop?: (field: CallField) => void;
}

function FieldRow({ field, onLoop }: FieldRowProps) {
  const { group, name, values, course } = field;
  const isTold = course.type === 'counts' || course.type === 'cursor';
  return (
    <tr className="border-grid border-b" data-field={`${group} ${name}`}>
      <th scope="row" className="sticky left-0 bg-sheet px-2 py-0.5 text-left font-normal">
        <span className="text-soft">{group}</span> <b className="break-all font-semibold">{name}</b>
        {onLoop !== undefined && group === 'query' ? (
          <button type="button" className="ml-2 text-soft underline hover:text-ink" onClick={() => onLoop(field)}>
            generate a loop over this parameter
          </button>
        ) : null}
      </th>
      <td className={`px-2 ${isTold ? 'font-semibold' : 'text-soft'}`}>{courseWords(course)}</td>
      {values.map((value, at) => (
        <td
          // biome-ignore lint/suspicious/noArrayIndexKey: one cell for each call, in their order.
          key={at}
          title={value}
          className={`max-w-44 truncate px-2 font-mono ${course.type !== 'stays' && at > 0 && value !== values[at - 1] ? 'font-semibold text-ink' : 'text-soft'}`}
        >
          {value === undefined ? <i>none</i> : value === '' ? <i>empty</i> : value}
        </td>
      ))}
    </tr>
  );
}
