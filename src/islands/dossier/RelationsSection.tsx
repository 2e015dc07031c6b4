import { useStore } from '@nanostores/react';
import type { ReactNode } from 'react';
import { type ExchangeRow, isAlone, nameExchange, type Surroundings } from '#core/analysis';
import type { ParentEvidence } from '#core/timing';
import { formatMs, formatPlural } from '#core/wording';
import { $place, goTo } from '../state/address';
import { StatusMark, statusWord } from '../ui/status';
import { CompareField } from './CompareField';
import { Comparison } from './Comparison';
import { goToMention } from './go-to-mention';

interface RelationsSectionProps {
  readonly captureId: string;
  readonly row: ExchangeRow;
  readonly around: Surroundings;
  /** All exchanges of the capture. */
  readonly rows: readonly ExchangeRow[];
}

const EVIDENCE_WORDS: Record<ParentEvidence, string> = {
  redirect: 'Location header',
  preflight: 'preflight',
  declared: 'recorded initiator',
  referenced: 'URL found in its body',
  referer: 'Referer header',
  document: 'assumed: the page’s document',
};

/** What asked for it and what it asked for, redirects, preflight, retries, the same endpoint, the same connection. */
export function RelationsSection({ captureId, row, around, rows }: RelationsSectionProps) {
  const { against } = useStore($place);
  const { parent, children, redirectedFrom, redirectedTo, preflight, preflightFor, retriedAs, retryOf } = around;
  return (
    <>
      {isAlone(around) ? <p className="text-soft">No related exchanges are known.</p> : null}
      <Relation title="Redirected from" rows={redirectedFrom} />
      <Relation title="Redirected to" rows={redirectedTo} />
      {row.parentEvidence === 'redirect' ? null : (
        <Relation title="Requested by" rows={parent}>
          {row.parentEvidence === undefined ? null : <>: {EVIDENCE_WORDS[row.parentEvidence]}</>}
          {parent === undefined ? null : (
            <>
              {' '}
              <button type="button" className="underline" onClick={() => goToMention(captureId, parent.index, row.url)}>
                show in its body
              </button>
            </>
          )}
          {row.depth === undefined ? null : <>, {formatPlural(row.depth, 'step')} from the document</>}
        </Relation>
      )}
      <Relation title="Its preflight" rows={preflight} />
      <Relation title="Preflight for" rows={preflightFor} />
      <Relation title="Repeats" rows={retryOf} onAgainst={compareWith} />
      <Relation title="Sent again as" rows={retriedAs} onAgainst={compareWith} />
      <Relation title="Requests triggered by it" rows={children} />
      <Relation title="Same endpoint" rows={around.sameEndpoint} onAgainst={compareWith}>
        {around.sameEndpoint.length === 0 ? null : (
          <>
            {' '}
            <button
              type="button"
              className="underline"
              onClick={() => goTo({ view: 'endpoints', endpoint: row.endpoint, isOpen: false })}
            >
              compare all requests to this endpoint
            </button>
          </>
        )}
      </Relation>
      <Relation title="Same connection" rows={around.sameConnection} />
      <CompareField captureId={captureId} index={row.index} rows={rows} />
      {against === undefined || against === row.index ? null : (
        <Comparison
          captureId={captureId}
          here={row.index}
          there={against}
          onClose={() => goTo({ against: undefined })}
        />
      )}
    </>
  );
}

const compareWith = (against: number): void => goTo({ against });

interface RelationProps {
  readonly title: string;
  readonly rows: ExchangeRow | readonly ExchangeRow[] | undefined;
  readonly children?: ReactNode;
  /** Offers to hold each of them against this exchange. */
  readonly onAgainst?: (index: number) => void;
}

/** More are one filter away. */
const SHOWN = 12;

function Relation({ title, rows, children, onAgainst }: RelationProps) {
  const all = rows === undefined ? [] : 'index' in rows ? [rows] : rows;
  if (all.length === 0) return null;
  const hidden = all.length - SHOWN;
  return (
    <div className="mb-2">
      <h4 className="text-[13px] text-soft">
        <span className="font-semibold">{title}</span>
        {children}
      </h4>
      <ul>
        {all.slice(0, SHOWN).map((one) => {
          const word = statusWord(one);
          return (
            <li key={one.index} className="flex items-center gap-2 text-[13px]">
              <button
                type="button"
                onClick={() => goTo({ exchange: one.index, lane: undefined, isOpen: true, hit: undefined })}
                className="min-w-0 truncate text-left underline hover:text-route"
                title={one.url}
              >
                #{one.index} {nameExchange(one)}
              </button>
              <span className="shrink-0 text-soft">{formatMs(one.timeMs)}</span>
              {word === undefined ? null : <StatusMark row={one} word={word} />}
              {onAgainst === undefined ? null : (
                <button
                  type="button"
                  className="ml-auto shrink-0 text-[12px] text-soft underline hover:text-ink"
                  aria-label={`Compare with #${one.index}`}
                  onClick={() => onAgainst(one.index)}
                >
                  compare with
                </button>
              )}
            </li>
          );
        })}
      </ul>
      {hidden > 0 ? <p className="text-[13px] text-soft">and {formatPlural(hidden, 'other')}</p> : null}
    </div>
  );
}
