import type { ExchangeRow } from '#core/analysis';
import { BYTES_PER_LINE, bytesFromLatin1, hexLine } from '#core/content';
import { type RequestDifference, tellExcuse } from '#core/rehearse';
import type { AskedExchange } from '#core/wire';
import { formatPlural } from '#core/wording';
import { goTo } from '../state/address';
import { CopyButton } from '../ui/CopyButton';

interface AskedSheetProps {
  readonly of: AskedExchange;
  readonly captured: ExchangeRow | undefined;
}

const PART_WORDS: Readonly<Record<RequestDifference['part'], string>> = {
  method: 'method',
  host: 'host',
  path: 'path',
  query: 'query',
  payload: 'payload',
  header: 'headers',
  order: 'order',
};

/** One request beside the captured one that it was taken for: what differs, part by part, and its head as it arrived. */
export function AskedSheet({ of, captured }: AskedSheetProps) {
  const { sentence, differences, remarks, taken, fits, turn, of: alike, head, payload, row, number } = of;
  const counted = differences.filter(({ excuse }) => excuse === undefined);
  const excused = differences.filter(({ excuse }) => excuse !== undefined);
  return (
    <section aria-label={`Request ${number}`} className="min-h-0 overflow-y-auto p-4 text-[13px]">
      <p className="break-all font-mono text-[12px]">
        {row.method} {row.url}
      </p>
      <p className="mt-1 font-bold text-base leading-5">{sentence}</p>
      {taken === undefined ? null : (
        <p className="mt-1 text-soft">
          {fits === 'fits' ? 'Taken for ' : 'Nearest is '}
          <button
            type="button"
            onClick={() => goTo({ exchange: taken, isOpen: true })}
            className="underline hover:text-ink"
          >
            #{taken}
          </button>
          {captured === undefined ? '' : ` (${captured.status ?? 'no response'})`}
          {turn !== undefined && alike !== undefined && alike > 1
            ? `, ${turn} of ${alike} that fit alike and are given in captured order`
            : ''}
          .
        </p>
      )}
      {remarks.length === 0 ? null : (
        <ul aria-label="About the response" className="mt-2 border-redirect border-l-3 pl-3">
          {remarks.map((remark) => (
            <li key={remark}>{remark}</li>
          ))}
        </ul>
      )}
      {counted.length === 0 ? null : <Differences list={counted} label="What differs" />}
      {excused.length === 0 ? null : (
        <details className="mt-3" open={counted.length === 0}>
          <summary className="cursor-pointer text-soft">
            {formatPlural(excused.length, 'difference')} that {excused.length === 1 ? 'does' : 'do'} not count
          </summary>
          <Differences list={excused} label="What differs and does not count" />
        </details>
      )}
      {head === '' ? null : <Arrived head={head} payload={payload} />}
    </section>
  );
}

/** The request as it came in: its head as text, the beginning of its payload as bytes. */
function Arrived({ head, payload }: Pick<AskedExchange, 'head' | 'payload'>) {
  const bytes = payload === undefined ? undefined : bytesFromLatin1(payload.text);
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-soft">
        As it arrived, byte for byte: <span className="tabular-nums">{formatPlural(head.length, 'byte')}</span> of head
        {payload === undefined ? '' : ` and ${formatPlural(payload.bytes, 'byte')} of payload`}
      </summary>
      <div className="mt-1 flex items-start gap-2">
        <pre className="min-w-0 flex-1 overflow-x-auto border border-line bg-paper p-2 font-mono text-[12px] leading-4">
          {head}
        </pre>
        <CopyButton text={() => head} label="Copy the head as it arrived" />
      </div>
      {payload === undefined || bytes === undefined ? null : (
        // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
        <section aria-label="Bytes of the payload" tabIndex={0} className="mt-2 max-h-80 overflow-auto">
          <pre className="border border-line bg-paper p-2 font-mono text-[12px] leading-4">{hexDump(bytes)}</pre>
          {bytes.length < payload.bytes ? (
            <p className="text-soft">The first {formatPlural(bytes.length, 'byte')} of it.</p>
          ) : null}
        </section>
      )}
    </details>
  );
}

const hexDump = (bytes: Uint8Array): string =>
  Array.from({ length: Math.ceil(bytes.length / BYTES_PER_LINE) }, (_, at) => {
    const { offset, hex, ascii } = hexLine(bytes, at);
    return `${offset}  ${hex.padEnd(BYTES_PER_LINE * 3)} ${ascii}`;
  }).join('\n');

function Differences({ list, label }: { readonly list: readonly RequestDifference[]; readonly label: string }) {
  return (
    <table aria-label={label} className="mt-3 w-full table-fixed border-collapse text-left text-[12px]">
      <thead className="text-soft">
        <tr>
          <th className="w-18 py-0.5 font-normal">part</th>
          <th className="w-40 font-normal">name</th>
          <th className="font-normal">captured</th>
          <th className="font-normal">arrived</th>
        </tr>
      </thead>
      <tbody>
        {list.map((one, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a name may come several times, and the list stays as it is.
          <tr key={at} className="border-grid border-t align-top">
            <td className="py-0.5 text-soft">{PART_WORDS[one.part]}</td>
            <td className="wrap-anywhere pr-2 font-semibold" title={tellExcuse(one)}>
              {one.name}
            </td>
            <Value text={one.captured} />
            <Value text={one.asked} />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const Value = ({ text }: { readonly text: string | undefined }) => (
  <td className={`wrap-anywhere pr-2 font-mono ${text === undefined ? 'text-soft' : ''}`}>
    {text === undefined ? 'none' : text === '' ? '(empty)' : text}
  </td>
);
