import { useRef } from 'react';
import {
  DraftFileError,
  draftFileToHar,
  draftsFromHar,
  type KeptDraft,
  readDraftFile,
  type SharedVariable,
  unpackKept,
  usedOn,
  withVariables,
  writeDraftFile,
} from '#core/sheet';
import { formatPlural } from '#core/wording';
import { fileName, saveFile } from '../export/save-file';
import { fetchCaptures } from '../state/api';
import { newId } from '../state/new-id';
import { tell } from '../state/notices';
import { Choice } from '../ui/Choice';
import { useFetched } from '../ui/use-fetched';
import { fetchDrafts, keepDraft, keepVariables } from './draft-api';
import { inOrder, readOrder } from './sequence-order';
import type { ThereDrafts } from './use-drafts';

interface DraftFilesProps {
  readonly captureId: string;
  /** What the capture is called, after which files are. */
  readonly name: string;
  readonly drafts: ThereDrafts;
  /** The draft that is looked at. */
  readonly current: KeptDraft | undefined;
}

/** Payloads of drafts are sent as they stand: nothing in them is unpacked. */
const TOOLS = { inflate: () => undefined };
const TO_CAPTURE = 'to:';

/** Drafts as files, without the values of secrets; from files; and into another capture. */
export function DraftFiles({ captureId, name, drafts, current }: DraftFilesProps) {
  const picker = useRef<HTMLInputElement>(null);
  const [shelf] = useFetched(fetchCaptures);
  const others = shelf.state === 'there' ? shelf.value.filter(({ id }) => id !== captureId) : [];
  const save = (isHar: boolean): void => {
    try {
      const file = writeDraftFile(inOrder(drafts.all, readOrder(captureId)), drafts.variables, TOOLS);
      const text = isHar ? draftFileToHar(file, Date.now()) : JSON.stringify(file, null, 2);
      const saved = fileName(`${name} drafts`, isHar ? 'har' : 'json');
      saveFile(saved, new Blob([text], { type: 'application/json' }));
      tell(`Saved ${saved}: ${formatPlural(file.drafts.length, 'draft')}, without the values of secrets.`);
    } catch (error) {
      if (!(error instanceof DraftFileError)) throw error;
      tell(error.message, { detail: 'Nothing was saved. Make it a variable that is secret, and try again.' });
    }
  };
  const choose = (id: string): void => {
    if (id === 'json' || id === 'har') save(id === 'har');
    else if (id === 'open') picker.current?.click();
    else if (current !== undefined && id.startsWith(TO_CAPTURE)) copyTo(id.slice(TO_CAPTURE.length), current, drafts);
  };
  return (
    <>
      <Choice
        action={{ id: 'draft-files', label: 'Save, open or copy drafts', keys: ['Shift+F'] }}
        label="Save, open or copy drafts"
        value=""
        options={[
          ['', 'files'],
          ...(drafts.all.length === 0
            ? []
            : ([
                ['json', 'save these drafts as a file'],
                ['har', 'save their requests as HAR'],
              ] as const)),
          ['open', 'open a file of drafts, or HAR'],
          ...(current === undefined
            ? []
            : others.map((card) => [`${TO_CAPTURE}${card.id}`, `copy this draft to ${card.name}`] as const)),
        ]}
        onChoose={choose}
      />
      <input
        ref={picker}
        type="file"
        accept=".json,.har,application/json"
        aria-label="File of drafts"
        className="hidden"
        onChange={async ({ target }) => {
          const [file] = target.files ?? [];
          if (file !== undefined) await open(file, drafts);
          target.value = '';
        }}
      />
    </>
  );
}

/** Larger files are no drafts that anybody wrote. */
const MOST_BYTES = 60_000_000;

async function open(file: File, drafts: ThereDrafts): Promise<void> {
  if (file.size > MOST_BYTES) {
    tell('The file is too large to hold drafts.', { detail: 'A capture is dropped on the shelf.' });
    return;
  }
  try {
    const text = await file.text();
    const isHar = /\.har$/i.test(file.name);
    const opened: Opened = isHar ? { drafts: draftsFromHar(text, newId), variables: [] } : openedFrom(text);
    const taken = opened.drafts;
    const isKnown = ({ name }: SharedVariable): boolean => drafts.variables.some((one) => one.name === name);
    const takeBack = drafts.changeVariables((all) => [...all, ...opened.variables.filter((one) => !isKnown(one))]);
    for (const kept of taken) drafts.add(kept);
    const undo = (): void => {
      for (const kept of taken) drafts.drop(kept);
      takeBack();
    };
    tell(`${formatPlural(taken.length, 'draft')} opened.`, { action: { label: 'Undo', run: undo } });
  } catch (error) {
    // What the format says is checked; what stands in a draft may still be none.
    const isOurs = error instanceof DraftFileError;
    tell(isOurs ? error.message : 'The file holds no drafts that can be read.', { detail: 'Nothing was opened.' });
  }
}

/** What a file brings: drafts in the order in which they are sent, and what they share. */
interface Opened {
  readonly drafts: readonly KeptDraft[];
  readonly variables: readonly SharedVariable[];
}

/** A file of our own; its drafts are others' from now on, and what is taken from their responses follows them. */
function openedFrom(text: string): Opened {
  const file = readDraftFile(text);
  const ids = new Map(file.drafts.map(({ id }) => [id, newId()]));
  const variables = file.variables.map((one): SharedVariable => {
    const { takenFrom, ...rest } = one;
    const draft = takenFrom === undefined ? undefined : ids.get(takenFrom.draft);
    return takenFrom === undefined || draft === undefined ? rest : { ...rest, takenFrom: { ...takenFrom, draft } };
  });
  const drafts = file.drafts.map((packed) => ({
    ...withVariables(unpackKept(packed), variables),
    id: ids.get(packed.id) ?? newId(),
    // It is an exchange of another capture, or of none.
    exchange: undefined,
  }));
  return { drafts, variables };
}

/** Puts a draft beside those of another capture, with the variables that it uses. */
async function copyTo(captureId: string, kept: KeptDraft, drafts: ThereDrafts): Promise<void> {
  const there = await fetchDrafts(captureId);
  if (!there.ok) {
    tell(there.problem.sentence, { detail: there.problem.advice });
    return;
  }
  const isKnown = ({ name }: SharedVariable): boolean => there.value.variables.some((one) => one.name === name);
  const used = usedOn(kept.sheet, drafts.variables);
  const fresh = used.filter((one) => !isKnown(one));
  // What its value is taken from stays behind.
  const set = fresh.map(({ name, value, isSecret }) => ({ name, value, isSecret }));
  const answers = [
    await keepVariables(captureId, { set, removed: [] }),
    await keepDraft(captureId, { ...kept, id: newId(), exchange: undefined }),
  ];
  const problem = answers.find((answer) => !answer.ok);
  if (problem !== undefined && !problem.ok) tell(problem.problem.sentence, { detail: problem.problem.advice });
  else {
    const known = used.filter(isKnown).map(({ name }) => name);
    const own = known.length === 0 ? '' : ` What that capture has of ${known.join(', ')} is used there.`;
    tell(`Copied "${kept.name}".`, { detail: `It is among the drafts of that capture.${own}` });
  }
}
