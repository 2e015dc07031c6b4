import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { HostMapError, readHostMap } from '#core/compare';
import { $place, goTo } from '../state/address';
import { Button } from '../ui/Button';

/** Says which hosts stand for one another, as those of staging and production do. Long because it is the markup of one form. */
export function HostsField() {
  const { map } = useStore($place);
  const [problem, setProblem] = useState<string>();
  const submit = (event: React.FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = event.currentTarget;
    const data = new FormData(form);
    const pair = `${String(data.get('from')).trim()}=${String(data.get('to')).trim()}`;
    try {
      readHostMap([pair]);
    } catch (error) {
      if (!(error instanceof HostMapError)) throw error;
      setProblem('Type two names of hosts, without scheme and path.');
      return;
    }
    setProblem(undefined);
    goTo({ map: [...map.filter((one) => one !== pair), pair] });
    form.reset();
  };
  return (
    <div className="mt-3 border-line border-t pt-2">
      {map.map((pair) => (
        <p key={pair} className="flex items-center gap-3">
          <span className="font-mono">{pair.replace('=', ' is ')}</span>
          <button
            type="button"
            className="text-soft underline hover:text-ink"
            onClick={() => goTo({ map: map.filter((one) => one !== pair) })}
          >
            take it back
          </button>
        </p>
      ))}
      <form onSubmit={submit} className="mt-1 flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2">
          Host
          <input
            name="from"
            autoComplete="off"
            placeholder="staging.cumbrera.example"
            className="h-7 w-56 border border-soft bg-paper px-2 font-mono"
          />
        </label>
        <label className="flex items-center gap-2">
          is the same as
          <input
            name="to"
            autoComplete="off"
            placeholder="www.cumbrera.example"
            className="h-7 w-56 border border-soft bg-paper px-2 font-mono"
          />
        </label>
        <Button isSubmit>Map the host</Button>
        {problem === undefined ? null : (
          <span role="alert" className="text-failed">
            {problem}
          </span>
        )}
      </form>
    </div>
  );
}
