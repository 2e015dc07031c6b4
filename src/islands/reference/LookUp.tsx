import { useMemo } from 'react';
import { searchReference, TOPICS } from '#core/reference';
import { formatCount } from '#core/wording';

interface LookUpProps {
  readonly field: React.RefObject<HTMLInputElement | null>;
  /** What Escape leads to. */
  readonly entries: React.RefObject<HTMLElement | null>;
  readonly words: string;
  readonly onWords: (words: string) => void;
}

/** The field that searches the reference, with how much is found. */
export function LookUp({ field, entries, words, onWords }: LookUpProps) {
  const count = useMemo(() => searchReference(words).length, [words]);
  return (
    <>
      <input
        ref={field}
        data-home=""
        type="search"
        value={words}
        onChange={({ target }) => onWords(target.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          // Browsers would clear the field.
          event.preventDefault();
          entries.current?.focus();
        }}
        aria-label="Search the reference: headers, statuses, phases, errors, words used here"
        placeholder="ttfb, why 304, samesite, ERR_CONNECTION_REFUSED"
        className="h-8 w-96 max-w-full border border-line bg-paper px-2.5 font-mono text-[13px]"
      />
      <p role="status" className="text-soft">
        {formatCount(count)} explained
      </p>
    </>
  );
}

interface EntriesProps {
  readonly words: string;
  readonly list: React.RefObject<HTMLElement | null>;
  readonly onWords: (words: string) => void;
}

/** Everything explained that is meant by the words, or all of it under its topics. Needs no network. */
export function Entries({ words, list, onWords }: EntriesProps) {
  const found = useMemo(() => searchReference(words), [words]);
  return (
    // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
    <section
      ref={list}
      aria-label="Entries"
      tabIndex={0}
      className="min-h-0 flex-1 overflow-y-auto px-5 py-4 outline-none"
    >
      {words.trim() === '' ? (
        <nav aria-label="Topics" className="mb-4 flex max-w-4xl flex-wrap gap-x-4 gap-y-1 text-[13px]">
          {TOPICS.map((topic) => (
            <button key={topic} type="button" className="underline hover:text-route" onClick={() => onWords(topic)}>
              {topic}
            </button>
          ))}
        </nav>
      ) : null}
      {found.length === 0 ? (
        <p className="text-soft">No entry contains all of these words. Clear them to see everything.</p>
      ) : (
        <dl className="grid max-w-4xl grid-cols-[280px_1fr] gap-x-5 gap-y-2 max-md:grid-cols-1">
          {found.map(({ topic, name, says, section }) => (
            <div key={`${topic} ${name}`} className="contents">
              <dt>
                <b className="break-words font-mono font-semibold text-[13px]">{name}</b>
                <span className="block text-[12px] text-soft">{topic}</span>
              </dt>
              <dd>
                {says} <span className="whitespace-nowrap text-soft">{section}</span>
              </dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}
