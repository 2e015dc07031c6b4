import { base64Of, bytesFromBase64, bytesFromText, textFromBytes } from '../content';
import { EMPTY_DRAFT, freeName, markOf, type Variable } from '../convert';
import type { Json } from '../har';
import {
  type EntryTools,
  findInEntry,
  findInText,
  KINDS_OF_PRESET,
  Prover,
  Redactor,
  type Secret,
  SecretStore,
} from '../redact';
import { type KeptDraft, type PackedKeptDraft, packKept } from './kept';
import type { SharedVariable } from './variables';

// Drafts as a file of their own, for another capture, another machine, a colleague: without the values of secrets.

/** What the format is called and which version of it this is; a newer one may say more than is known here. */
const FORMAT = 'trazado drafts';
const VERSION = 1;

/** A file of drafts, as JSON. In it a secret is a variable without a value. */
export interface DraftFile {
  readonly format: typeof FORMAT;
  readonly version: number;
  /** In the order in which they are sent. */
  readonly drafts: readonly PackedKeptDraft[];
  readonly variables: readonly SharedVariable[];
}

/** A file that holds no drafts that can be read here. */
export class DraftFileError extends Error {}

/**
 * Drafts with what they share, as a file; secrets in them become variables without values, and those that are variables
 * already lose theirs.
 * @throws DraftFileError where a secret could not be taken out
 */
export function writeDraftFile(
  kept: readonly KeptDraft[],
  shared: readonly SharedVariable[],
  tools: EntryTools,
): DraftFile {
  const store = findSecrets(kept, shared, tools);
  const names = namesFor(
    store.secrets.filter(({ isEverywhere }) => isEverywhere),
    shared,
  );
  const redactor = new Redactor(store);
  const drafts = kept.map((one) => withoutSecrets(packKept(one), names, redactor));
  const used = JSON.stringify(drafts);
  const added = [...names.values()]
    .filter((name) => used.includes(markOf(name)) && !shared.some((one) => one.name === name))
    .map((name): SharedVariable => ({ name, value: '', isSecret: true }));
  const variables = shared.map((one) =>
    one.isSecret || names.has(one.value) ? { ...one, value: '', isSecret: true } : one,
  );
  const file: DraftFile = { format: FORMAT, version: VERSION, drafts, variables: [...variables, ...added] };
  const prover = new Prover(store.secrets.filter(({ isEverywhere }) => isEverywhere));
  prover.look(file as unknown as Json, 'the file');
  const [leak] = prover.leaks;
  if (leak !== undefined)
    throw new DraftFileError(
      `A secret (${leak.secret.name || leak.secret.kind}) could not be taken out: it is at ${leak.path}.`,
    );
  return file;
}

function findSecrets(kept: readonly KeptDraft[], shared: readonly SharedVariable[], tools: EntryTools): SecretStore {
  const store = new SecretStore({ kinds: KINDS_OF_PRESET.colleague });
  for (const { value, isSecret, name } of shared)
    if (isSecret && value !== '') store.add(value, 'token', 'pointed', name);
  for (const { draft, sheet } of kept) {
    const { url, method, headers, payload } = draft;
    const text = payload.type === 'text' ? payload.text : '';
    const entry = { request: { method, url, headers, postData: { mimeType: typeOf(headers), text } } };
    findInEntry(entry as unknown as Json, store, tools);
    findInText(partsOf(sheet.text)[2], { type: 'content', text: { type: 'text' } }, store);
  }
  return store;
}

const typeOf = (headers: KeptDraft['draft']['headers']): string =>
  headers.find(({ name }) => /^content-type$/i.test(name))?.value ?? '';

/** The parts of a sheet's text, which empty lines part: what is asked for, the headers, and the payload. */
function partsOf(text: string): readonly [target: string, headers: string, payload: string] {
  const [target = '', headers = '', ...payload] = text.split('\n\n');
  return [target, headers, payload.join('\n\n')];
}

/** What each secret is called as a variable, the longest first, as one may stand in another: what is one already keeps its name. */
function namesFor(secrets: readonly Secret[], shared: readonly SharedVariable[]): ReadonlyMap<string, string> {
  const names = new Map<string, string>();
  const variables: Variable[] = [...shared];
  for (const { value, kind } of secrets) {
    const own = shared.find((one) => one.value === value)?.name;
    const name = own ?? freeName({ ...EMPTY_DRAFT, variables }, kind);
    if (own === undefined) variables.push({ name, value: '', isSecret: true });
    names.set(value, name);
  }
  return new Map([...names].sort(([one], [other]) => other.length - one.length));
}

function withoutSecrets(
  packed: PackedKeptDraft,
  names: ReadonlyMap<string, string>,
  redactor: Redactor,
): PackedKeptDraft {
  const inText = (text: string): string => {
    let written = text;
    for (const [value, name] of names) written = written.replaceAll(value, markOf(name));
    // What is written otherwise there, and what is secret only in its place.
    return redactor.text(written, { type: 'content', text: { type: 'text' } });
  };
  const inHeader = (line: string): string => {
    const [, before = '', name = '', value] = /^(\W*([\w-]+):\s?)(.*)$/.exec(line) ?? [];
    return value === undefined ? inText(line) : before + redactor.text(inText(value), { type: 'header', name });
  };
  const inSheet = (text: string): string => {
    const [target, headers] = partsOf(text);
    const rest = text.slice(target.length + headers.length + 2);
    if (text.length <= target.length) return inText(text);
    return `${inText(target)}\n\n${headers.split('\n').map(inHeader).join('\n')}${inText(rest)}`;
  };
  const attachments = packed.sheet.attachments.map((one) => {
    const bytes = bytesFromBase64(one.base64);
    const text = bytes === undefined ? undefined : textFromBytes(bytes);
    return text === undefined ? one : { ...one, base64: base64Of(bytesFromText(redactor.text(text))) };
  });
  return {
    ...packed,
    name: redactor.text(packed.name),
    sheet: { ...packed.sheet, text: inSheet(packed.sheet.text), attachments },
    draft: {
      ...packed.draft,
      headers: packed.draft.headers.map((header) => ({
        ...header,
        value: redactor.text(inText(header.value), { type: 'header', name: header.name }),
      })),
      variables: packed.draft.variables.map((one) => ({ ...one, value: one.isSecret ? '' : inText(one.value) })),
      notes: packed.draft.notes.map(inText),
    },
  };
}

/** The drafts of a file. What each of them holds is checked where it is kept. @throws DraftFileError */
export function readDraftFile(text: string): DraftFile {
  let value: Partial<DraftFile>;
  try {
    value = JSON.parse(text) as Partial<DraftFile>;
  } catch {
    throw new DraftFileError('The file holds no drafts: it is not JSON.');
  }
  if (typeof value !== 'object' || value === null || value.format !== FORMAT)
    throw new DraftFileError('The file holds no drafts: it was not saved as drafts.');
  if (typeof value.version !== 'number' || value.version > VERSION)
    throw new DraftFileError(
      'The file was saved by a newer Trazado: save it there as HAR, or bring this one up to date.',
    );
  if (!Array.isArray(value.drafts) || !Array.isArray(value.variables) || value.drafts.length === 0)
    throw new DraftFileError('The file holds no drafts.');
  return value as DraftFile;
}
