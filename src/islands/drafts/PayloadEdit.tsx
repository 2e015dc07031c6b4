import { useRef, useState } from 'react';
import { type Draft, type DraftPart, joinQuery, liftText, readPiece, splitQuery, writePiece } from '#core/convert';
import { formatJson } from '#core/json';
import { formatExactBytes } from '#core/wording';
import { tell } from '../state/notices';
import { Choice } from '../ui/Choice';
import { CodeEdit } from './CodeEdit';
import { type EditingProps, FIELD, Part, Tool } from './parts';
import {
  asKind,
  formBytes,
  jsonProblem,
  KIND_LABELS,
  kindOf,
  type PayloadKind,
  readOperation,
  writeOperation,
} from './payload-type';

/** The payload, edited as what it is. */
export function PayloadEdit({ draft, edit }: EditingProps) {
  const found = kindOf(draft);
  // An operation that is being written may not look like one for a while.
  const [isOperation, setIsOperation] = useState(found === 'graphql');
  const text = draft.payload.type === 'text' ? draft.payload.text : '';
  const kind = isOperation && found === 'json' && readOperation(text, true) !== undefined ? 'graphql' : found;
  const choose = (next: PayloadKind): void => {
    setIsOperation(next === 'graphql');
    edit((before) => asKind(before, next));
  };
  return (
    <Part
      title="Payload"
      tools={<Choice label="Type of the payload" value={kind} options={KIND_LABELS} onChoose={choose} />}
    >
      <PayloadBody draft={draft} edit={edit} kind={kind} />
    </Part>
  );
}

function PayloadBody({ draft, edit, kind }: EditingProps & { readonly kind: PayloadKind }) {
  const { payload } = draft;
  const setText = (text: string): void =>
    edit((before) =>
      before.payload.type === 'text' && before.payload.text === text
        ? before
        : { ...before, payload: { type: 'text', text } },
    );
  switch (payload.type) {
    case 'none':
    case 'unrecorded':
      return (
        <p className="text-soft">
          {payload.type === 'none' ? 'No payload.' : 'Not recorded: choose a type and write it.'}
        </p>
      );
    case 'bytes':
      return (
        <p>
          {formatExactBytes(payload.bytes.length)} that are no text.{' '}
          <FilePick
            label="Put a file’s bytes in their place"
            onBytes={(bytes) => edit((before) => ({ ...before, payload: { type: 'bytes', bytes } }))}
          />
        </p>
      );
    case 'file':
      return (
        <label className="flex items-center gap-2">
          read from the file
          <input
            aria-label="Path of the payload’s file"
            value={payload.path}
            onChange={({ target }) => edit((before) => ({ ...before, payload: { type: 'file', path: target.value } }))}
            className={`flex-1 ${FIELD}`}
          />
        </label>
      );
    case 'parts':
      return <PartsEdit payload={payload} edit={edit} />;
    case 'text':
      if (kind === 'form') return <FormEdit text={payload.text} onText={setText} />;
      if (kind === 'graphql') return <OperationEdit text={payload.text} onText={setText} />;
      return <TextEdit text={payload.text} isJson={kind === 'json'} onText={setText} edit={edit} />;
    default:
      return payload satisfies never;
  }
}

interface TextEditProps {
  readonly text: string;
  readonly isJson: boolean;
  readonly onText: (text: string) => void;
  readonly edit: EditingProps['edit'];
}

function TextEdit({ text, isJson, onText, edit }: TextEditProps) {
  const selected = useRef<() => string>(() => '');
  const problem = isJson ? jsonProblem(text) : undefined;
  const lift = (): void => {
    const part = selected.current();
    if (part === '') tell('Select a text in the payload first: it becomes the variable.');
    else edit((before) => liftText(before, part, 'value'));
  };
  return (
    <>
      <CodeEdit
        text={text}
        language={isJson ? 'JSON' : 'Text'}
        label="Payload"
        onChange={onText}
        onReady={(get) => {
          selected.current = get;
        }}
      />
      <p className="mt-1 flex gap-3 text-soft">
        {isJson ? (
          <Tool
            onClick={() => {
              if (problem === undefined) onText(formatJson(text).text);
              else tell('Formatting needs valid JSON.', { detail: problem });
            }}
          >
            format
          </Tool>
        ) : null}
        <Tool onClick={lift}>make the selection a variable</Tool>
        {isJson ? (
          <span role="status">{problem === undefined ? 'Valid JSON.' : `Not valid JSON: ${problem}`}</span>
        ) : null}
      </p>
    </>
  );
}

function FormEdit({ text, onText }: { readonly text: string; readonly onText: (text: string) => void }) {
  const pieces = text === '' ? [] : splitQuery(`?${text}`).pieces;
  const set = (next: readonly string[]): void => onText(joinQuery('', next).slice(1));
  return (
    <>
      {pieces.map((piece, at) => {
        const { name, value } = readPiece(piece);
        const put = (next: string): void => set(pieces.map((one, place) => (place === at ? next : one)));
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: fields have no identity but their place.
          <div key={at} className="mb-1 grid grid-cols-[minmax(0,1fr)_minmax(0,2fr)_auto] gap-2">
            <input
              aria-label={`Name of field ${at + 1}`}
              value={name}
              onChange={({ target }) => put(writePiece(target.value, value))}
              className={FIELD}
            />
            <input
              aria-label={`Value of field ${name}`}
              value={value}
              onChange={({ target }) => put(writePiece(name, target.value))}
              className={FIELD}
            />
            <Tool onClick={() => set(pieces.filter((_, place) => place !== at))}>delete</Tool>
          </div>
        );
      })}
      <Tool onClick={() => set([...pieces, 'name='])}>add a field</Tool>
    </>
  );
}

function OperationEdit({ text, onText }: { readonly text: string; readonly onText: (text: string) => void }) {
  const operation = readOperation(text, true);
  const [written, setWritten] = useState(operation?.variables ?? '');
  if (operation === undefined) return <CodeEdit text={text} language="JSON" label="Payload" onChange={onText} />;
  // What is being written stays as it is; what was changed from outside, by undo, takes its place.
  const variables = isAhead(written, operation.variables) ? written : operation.variables;
  const write = (query: string, nextVariables: string): void => {
    setWritten(nextVariables);
    const next = writeOperation(query, nextVariables, operation.rest);
    if (next !== undefined) onText(next);
  };
  const problem = variables.trim() === '' ? undefined : jsonProblem(variables);
  return (
    <>
      <p className="text-soft">operation</p>
      <CodeEdit
        text={operation.query}
        language="Text"
        label="Operation"
        onChange={(query) => write(query, variables)}
      />
      <p className="mt-1 text-soft">variables</p>
      <CodeEdit
        text={variables}
        language="JSON"
        label="Variables of the operation"
        onChange={(next) => write(operation.query, next)}
      />
      {problem === undefined ? null : <p role="status">Not applied, not valid JSON: {problem}</p>}
    </>
  );
}

/** Whether a text is no JSON yet, or says the same as what was taken over. */
function isAhead(written: string, taken: string): boolean {
  if (written.trim() === '') return taken === '';
  if (jsonProblem(written) !== undefined) return true;
  try {
    return taken !== '' && JSON.stringify(JSON.parse(written)) === JSON.stringify(JSON.parse(taken));
  } catch {
    return true;
  }
}

/** Long because a part of a form is edited in each of its members, one control after the other. */
function PartsEdit({
  payload,
  edit,
}: {
  readonly payload: Extract<Draft['payload'], { readonly type: 'parts' }>;
  readonly edit: EditingProps['edit'];
}) {
  const set = (parts: readonly DraftPart[]): void => edit((before) => ({ ...before, payload: { ...payload, parts } }));
  const put = (at: number, change: Partial<DraftPart>): void =>
    set(payload.parts.map((part, place) => (place === at ? { ...part, ...change } : part)));
  return (
    <>
      {payload.parts.map((part, at) => {
        const text = part.fileName === undefined ? new TextDecoder().decode(part.bytes) : undefined;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: parts have no identity but their place.
          <div key={at} className="mb-1 grid grid-cols-[minmax(0,1fr)_minmax(0,2fr)_auto] items-center gap-2">
            <input
              aria-label={`Name of part ${at + 1}`}
              value={part.name}
              onChange={({ target }) => put(at, { name: target.value })}
              className={FIELD}
            />
            {text !== undefined ? (
              <input
                aria-label={`Value of part ${part.name}`}
                value={text}
                onChange={({ target }) => put(at, { bytes: new TextEncoder().encode(target.value) })}
                className={FIELD}
              />
            ) : (
              <span className="flex min-w-0 items-center gap-2">
                <input
                  aria-label={`File of part ${part.name}`}
                  value={part.fileName}
                  onChange={({ target }) => put(at, { fileName: target.value })}
                  className={`min-w-0 flex-1 ${FIELD}`}
                />
                <span className="text-soft">
                  {part.bytes === undefined ? 'beside the code' : formatExactBytes(part.bytes.length)}
                </span>
                <FilePick
                  label={`Choose another file for ${part.name}`}
                  onBytes={(bytes, fileName) => put(at, { bytes, fileName })}
                />
              </span>
            )}
            <Tool onClick={() => set(payload.parts.filter((_, place) => place !== at))}>delete</Tool>
          </div>
        );
      })}
      <p className="flex gap-3">
        <Tool
          onClick={() =>
            set([
              ...payload.parts,
              { name: 'name', fileName: undefined, contentType: undefined, bytes: new Uint8Array() },
            ])
          }
        >
          add a field
        </Tool>
        <Tool
          onClick={() =>
            set([
              ...payload.parts,
              { name: 'file', fileName: 'file.bin', contentType: 'application/octet-stream', bytes: undefined },
            ])
          }
        >
          add a file
        </Tool>
        <span className="text-soft">{formatExactBytes(formBytes(payload))} in all</span>
      </p>
    </>
  );
}

function FilePick({
  label,
  onBytes,
}: {
  readonly label: string;
  readonly onBytes: (bytes: Uint8Array, name: string) => void;
}) {
  return (
    <input
      type="file"
      aria-label={label}
      className="max-w-48 text-[12px]"
      onChange={async ({ target }) => {
        const [file] = target.files ?? [];
        if (file !== undefined) onBytes(new Uint8Array(await file.arrayBuffer()), file.name);
      }}
    />
  );
}
