import type { ExchangesAnswer } from '#core/wire';

interface PicturesProps {
  readonly answer: ExchangesAnswer;
  readonly here: string;
  readonly there: string;
}

/** The bodies side by side, where both are pictures. */
export function Pictures({ answer, here, there }: PicturesProps) {
  if (!answer.here.isPicture || !answer.there.isPicture) return null;
  return (
    <div className="mb-3 grid grid-cols-2 gap-3">
      {[
        { address: here, head: answer.here },
        { address: there, head: answer.there },
      ].map(({ address, head }, at) => (
        <figure key={at === 0 ? 'a' : 'b'}>
          <img src={address} alt={`Body of ${head.name}`} className="max-h-60 max-w-full border border-line bg-paper" />
          <figcaption className="truncate text-[12px] text-soft">
            {at === 0 ? 'A' : 'B'}: {head.name}
          </figcaption>
        </figure>
      ))}
    </div>
  );
}
