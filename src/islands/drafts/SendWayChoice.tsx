import { isNetworkPlace } from '#core/http';
import type { SendWay } from '#core/sheet';

interface SendWayChoiceProps {
  readonly way: SendWay | undefined;
  readonly onWay: (way: SendWay) => void;
}

const FIELD = 'border border-line bg-paper px-1.5 font-mono text-[12px] text-ink aria-invalid:border-failed';

/** How a draft is sent, beside what its sheet says. What is no place is refused as it is sent: it must not go elsewhere. */
export function SendWayChoice({ way = {}, onWay }: SendWayChoiceProps) {
  const set = (change: { readonly [Name in keyof SendWay]?: SendWay[Name] | undefined }): void => {
    const next = Object.entries({ ...way, ...change }).filter(([, value]) => value !== undefined && value !== false);
    onWay(Object.fromEntries(next));
  };
  const said = [
    way.toHost === undefined ? '' : `to ${way.toHost}`,
    way.proxy === undefined ? '' : `through ${way.proxy}`,
    way.wantsHttp2 === true ? 'over HTTP/2' : '',
    way.timeLimitS === undefined ? '' : `within ${way.timeLimitS} s`,
  ].filter(Boolean);
  return (
    <details className="mt-3 text-[13px] text-soft">
      <summary>How it is sent{said.length === 0 ? '' : `: ${said.join(', ')}`}</summary>
      <span className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1">
        <PlaceField label="Send to" hint="127.0.0.1:8080" value={way.toHost} onPlace={(toHost) => set({ toHost })} />
        <PlaceField label="Proxy" hint="proxy.example:8080" value={way.proxy} onPlace={(proxy) => set({ proxy })} />
        <label className="flex items-center gap-1">
          waits
          <input
            aria-label="Seconds to wait for the response"
            inputMode="decimal"
            placeholder="30"
            defaultValue={way.timeLimitS ?? ''}
            onChange={({ target }) => {
              const seconds = Number(target.value);
              target.ariaInvalid = String(target.value.trim() !== '' && !(seconds >= 0.1 && seconds <= 600));
              if (target.value.trim() === '') set({ timeLimitS: undefined });
              else if (seconds >= 0.1 && seconds <= 600) set({ timeLimitS: seconds });
            }}
            className={`w-14 ${FIELD}`}
          />
          s
        </label>
        <label className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={way.wantsHttp2 === true}
            onChange={({ target }) => set({ wantsHttp2: target.checked })}
          />
          HTTP/2 where the server takes it
        </label>
      </span>
    </details>
  );
}

interface PlaceFieldProps {
  readonly label: string;
  readonly hint: string;
  readonly value: string | undefined;
  readonly onPlace: (place: string | undefined) => void;
}

function PlaceField({ label, hint, value = '', onPlace }: PlaceFieldProps) {
  return (
    <label className="flex items-center gap-1">
      {label}
      <input
        aria-label={label}
        placeholder={hint}
        defaultValue={value}
        spellCheck={false}
        onChange={({ target }) => {
          const typed = target.value.trim();
          onPlace(typed === '' ? undefined : typed);
        }}
        aria-invalid={value !== '' && !isNetworkPlace(value)}
        className={`w-36 ${FIELD}`}
      />
    </label>
  );
}
