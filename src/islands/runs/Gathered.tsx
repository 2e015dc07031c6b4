import { useEffect, useState } from 'react';
import type { Run } from '#core/wire';
import { formatBytes, formatCount } from '#core/wording';
import { TableReading } from '../content/readings/TableReading';
import { useJson } from '../content/use-json';
import { fileName, saveFile } from '../export/save-file';
import { requestFile } from '../state/api';
import { tell } from '../state/notices';
import { Choice } from '../ui/Choice';
import { copyText } from '../ui/copy';
import { fetchRepeated, rowsAddress } from './runs-api';

interface GatheredProps {
  readonly captureId: string;
  readonly run: Run;
  readonly name: string;
}

const FORMS = [
  ['csv', 'CSV'],
  ['json', 'JSON'],
  ['lines', 'JSON lines'],
] as const;
type Form = (typeof FORMS)[number][0];
const EXTENSIONS: Readonly<Record<Form, string>> = { csv: 'csv', json: 'json', lines: 'jsonl' };

/** What a series has gathered, as a table and as files. */
export function Gathered({ captureId, run, name }: GatheredProps) {
  const [form, setForm] = useState<Form>('csv');
  const [isOnce, setIsOnce] = useState(false);
  const [hasValue, setHasValue] = useState(false);
  const parameter = run.order.kind === 'series' ? run.order.loop.parameter : '';
  const from = hasValue ? `from ${parameter}` : undefined;
  const get = (wanted: Form) => requestFile(rowsAddress(captureId, run, { form: wanted, from, once: isOnce }));
  const save = async (): Promise<void> => {
    const answer = await get(form);
    if (answer.ok) saveFile(fileName(name, EXTENSIONS[form]), answer.value);
    else tell(answer.problem.sentence, { detail: answer.problem.advice });
  };
  const copy = async (): Promise<void> => {
    const answer = await get(form);
    if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    else if (await copyText(await answer.value.text())) tell(`Copied, ${formatBytes(answer.value.size)}.`);
    else tell('The browser does not allow this page to copy.');
  };
  const [repeated, setRepeated] = useState<number>();
  useEffect(() => {
    let isCurrent = true;
    fetchRepeated(captureId, run).then((answer) => {
      if (isCurrent && answer.ok) setRepeated(answer.value);
    });
    return () => {
      isCurrent = false;
    };
  }, [captureId, run]);
  const button = 'underline hover:text-ink';
  return (
    <section aria-label="Gathered rows" className="mt-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[12px] text-soft">
        <label className="flex items-center gap-1">
          <input type="checkbox" checked={hasValue} onChange={() => setHasValue(!hasValue)} />
          with the value that each row came from
        </label>
        <label className="flex items-center gap-1">
          <input type="checkbox" checked={isOnce} onChange={() => setIsOnce(!isOnce)} />
          repeated rows once{repeated === undefined ? '' : ` (${formatCount(repeated)} repeated)`}
        </label>
        <span className="ml-auto flex items-center gap-3">
          <Choice label="What the rows are saved as" before="as" value={form} options={FORMS} onChoose={setForm} />
          <button type="button" className={button} onClick={() => void copy()}>
            copy the rows
          </button>
          <button type="button" className={button} onClick={() => void save()}>
            save the rows
          </button>
        </span>
      </div>
      <Table
        key={`${run.id} ${run.sends} ${from} ${isOnce}`}
        address={rowsAddress(captureId, run, { form: 'json', from, once: isOnce })}
        name={name}
      />
    </section>
  );
}

/** The rows as the reading of arrays shows them: columns chosen, sorted, nested lists opened. */
function Table({ address, name }: { readonly address: string; readonly name: string }) {
  const [text, setText] = useState<string>();
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    let isCurrent = true;
    requestFile(address).then(async (answer) => {
      const body = answer.ok ? await answer.value.text() : undefined;
      if (!isCurrent) return;
      if (answer.ok) setText(body);
      else setProblem(answer.problem.sentence);
    });
    return () => {
      isCurrent = false;
    };
  }, [address]);
  if (problem !== undefined) return <p className="text-failed">{problem}</p>;
  if (text === undefined) return <p className="text-soft">Reading the rows</p>;
  return <ThereTable text={text} address={address} name={name} />;
}

/** Longer texts are read in a worker. */
const HERE_CHARS = 400_000;

function ThereTable({
  text,
  address,
  name,
}: {
  readonly text: string;
  readonly address: string;
  readonly name: string;
}) {
  const isLong = text.length > HERE_CHARS;
  const json = useJson({
    text: isLong ? text.slice(0, HERE_CHARS) : text,
    isCut: isLong,
    address: isLong ? address : undefined,
    charsetType: undefined,
  });
  if (json.state === 'failed') return <p className="text-failed">{json.reason}</p>;
  return <TableReading json={json} name={name} isOfExchange={false} />;
}
