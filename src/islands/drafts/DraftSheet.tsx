import { useEffect, useState } from 'react';
import {
  changesOf,
  type Draft,
  draftFromExchange,
  dropVariable,
  freeName,
  joinQuery,
  type KeptDraft,
  readPiece,
  renameVariable,
  splitQuery,
  VARIABLE_NAME,
  writePiece,
} from '#core/convert';
import { splitUrl } from '#core/http';
import { fetchDossier } from '../state/api';
import { HeadersPart } from './HeadersPart';
import { PayloadEdit } from './PayloadEdit';
import { type EditingProps, FIELD, Lift, Part, Tool } from './parts';

interface DraftSheetProps {
  readonly captureId: string;
  readonly kept: KeptDraft;
  readonly onChange: (change: (kept: KeptDraft) => KeptDraft) => void;
}

/** The request of a draft in its parts, each to be changed. */
export function DraftSheet({ captureId, kept, onChange }: DraftSheetProps) {
  const { draft } = kept;
  const edit = (change: (draft: Draft) => Draft): void =>
    onChange((before) => ({ ...before, draft: change(before.draft) }));
  return (
    // In the tab order, since a scrolled region must be reachable by keyboard (WCAG 2.1.1).
    <div tabIndex={0} className="min-h-0 min-w-0 overflow-y-auto p-4 text-[13px] outline-none max-lg:overflow-visible">
      <AddressPart kept={kept} onChange={onChange} />
      <QueryPart kept={kept} onChange={onChange} />
      <HeadersPart draft={draft} edit={edit} />
      <PayloadEdit draft={draft} edit={edit} />
      <VariablesPart draft={draft} edit={edit} />
      <ChangesPart captureId={captureId} kept={kept} />
      {draft.notes.length === 0 ? null : (
        <Part title="Notes">
          {draft.notes.map((note) => (
            <p key={note}>{note}</p>
          ))}
        </Part>
      )}
    </div>
  );
}

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'];

type Changing = Pick<DraftSheetProps, 'kept' | 'onChange'>;

function AddressPart({ kept, onChange }: Changing) {
  const { draft } = kept;
  const { base, pieces } = splitQuery(draft.url);
  const { origin = '', path = base } = splitUrl(base) ?? {};
  const setUrl = (nextOrigin: string, nextPath: string): void =>
    onChange((before) => ({ ...before, draft: { ...before.draft, url: joinQuery(nextOrigin + nextPath, pieces) } }));
  return (
    <Part title="Address">
      <div className="grid grid-cols-[6rem_minmax(0,1fr)_minmax(0,1.1fr)] gap-2">
        <label>
          <span className="text-soft">method</span>
          <input
            list="methods"
            aria-label="Method"
            value={draft.method}
            onChange={({ target }) => {
              const method = target.value.trim();
              onChange((before) => ({ ...before, draft: { ...before.draft, method } }));
            }}
            className={`w-full ${FIELD}`}
          />
          <datalist id="methods">
            {METHODS.map((method) => (
              <option key={method} value={method} />
            ))}
          </datalist>
        </label>
        <label>
          <span className="text-soft">scheme and host</span>
          <input
            aria-label="Scheme and host"
            value={origin}
            spellCheck={false}
            onChange={({ target }) =>
              setUrl(
                target.value.replace(/\/+$/, (slashes) => slashes.slice(0, 2)),
                path,
              )
            }
            className={`w-full ${FIELD}`}
          />
        </label>
        <label>
          <span className="text-soft">path</span>
          <input
            aria-label="Path"
            value={path}
            spellCheck={false}
            onChange={({ target }) => setUrl(origin, target.value)}
            className={`w-full ${FIELD}`}
          />
        </label>
      </div>
    </Part>
  );
}

/** Long because a row of the query is changed, moved, left out and taken back by controls that share its place. */
function QueryPart({ kept, onChange }: Changing) {
  const { base, pieces } = splitQuery(kept.draft.url);
  const set = (nextPieces: readonly string[], spareQuery = kept.spareQuery): void =>
    onChange((before) => ({ ...before, spareQuery, draft: { ...before.draft, url: joinQuery(base, nextPieces) } }));
  const put = (at: number, piece: string): void => set(pieces.map((one, place) => (place === at ? piece : one)));
  return (
    <Part
      title="Query"
      tools={
        <>
          <Tool onClick={() => set([...pieces, 'name='])}>add</Tool>
          {pieces.length > 0 ? <Tool onClick={() => set([], [...kept.spareQuery, ...pieces])}>exclude all</Tool> : null}
          {kept.spareQuery.length > 0 ? (
            <Tool onClick={() => set([...pieces, ...kept.spareQuery], [])}>include all</Tool>
          ) : null}
        </>
      }
    >
      {pieces.length + kept.spareQuery.length === 0 ? <p className="text-soft">No query.</p> : null}
      {pieces.map((piece, at) => {
        const { name, value } = readPiece(piece);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no identity but their place.
          <div key={at} className="mb-1 grid grid-cols-[auto_minmax(0,1fr)_minmax(0,2fr)_auto] items-center gap-2">
            <input
              type="checkbox"
              aria-label={`Send the parameter ${name}`}
              checked
              onChange={() =>
                set(
                  pieces.filter((_, place) => place !== at),
                  [...kept.spareQuery, piece],
                )
              }
            />
            <input
              aria-label={`Name of parameter ${at + 1}`}
              value={name}
              onChange={({ target }) => put(at, writePiece(target.value, value))}
              className={FIELD}
            />
            <input
              aria-label={`Value of parameter ${name}`}
              value={value}
              onChange={({ target }) => put(at, writePiece(name, target.value))}
              className={FIELD}
            />
            <Lift
              label={`Make the parameter ${name} a variable`}
              onLift={() =>
                onChange((before) => {
                  const variable = { name: freeName(before.draft, name), value, isSecret: false };
                  const url = joinQuery(
                    base,
                    pieces.map((one, place) => (place === at ? writePiece(name, `{{${variable.name}}}`) : one)),
                  );
                  return {
                    ...before,
                    draft: { ...before.draft, url, variables: [...before.draft.variables, variable] },
                  };
                })
              }
            />
          </div>
        );
      })}
      {kept.spareQuery.map((piece, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: pieces have no identity but their place.
        <div key={at} className="mb-1 flex items-center gap-2 text-soft">
          <input
            type="checkbox"
            aria-label={`Send the parameter ${readPiece(piece).name}`}
            checked={false}
            onChange={() =>
              set(
                [...pieces, piece],
                kept.spareQuery.filter((_, place) => place !== at),
              )
            }
          />
          <span className="min-w-0 truncate font-mono text-[12px]">{piece}</span>
          <span>left out by hand</span>
        </div>
      ))}
    </Part>
  );
}

/** Long because a variable is named, filled in, hidden and put back by controls of one row. */
function VariablesPart({ draft, edit }: EditingProps) {
  const set = (at: number, change: Partial<Draft['variables'][number]>): void =>
    edit((before) => ({
      ...before,
      variables: before.variables.map((one, place) => (place === at ? { ...one, ...change } : one)),
    }));
  return (
    <Part
      title="Variables"
      tools={
        <Tool
          onClick={() =>
            edit((before) => ({
              ...before,
              variables: [...before.variables, { name: freeName(before, 'value'), value: '', isSecret: false }],
            }))
          }
        >
          add
        </Tool>
      }
    >
      {draft.variables.length === 0 ? (
        <p className="text-soft">
          {'No variables. {{ }} beside a value makes it one; in any text, {{name}} is replaced by its value.'}
        </p>
      ) : null}
      {draft.variables.map((variable, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the name is what is edited.
        <div key={at} className="mb-1 grid grid-cols-[10rem_minmax(0,1fr)_auto_auto] items-center gap-2">
          <input
            aria-label={`Name of variable ${at + 1}`}
            value={variable.name}
            spellCheck={false}
            onChange={({ target }) => {
              const name = target.value;
              if (VARIABLE_NAME.test(name) && !draft.variables.some((one) => one.name === name))
                edit((before) => renameVariable(before, variable.name, name));
            }}
            className={FIELD}
          />
          <input
            aria-label={`Value of variable ${variable.name}`}
            type={variable.isSecret ? 'password' : 'text'}
            autoComplete="off"
            value={variable.value}
            onChange={({ target }) => set(at, { value: target.value })}
            className={FIELD}
          />
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              checked={variable.isSecret}
              onChange={() => set(at, { isSecret: !variable.isSecret })}
            />
            secret
          </label>
          <button
            type="button"
            aria-label={`Replace ${variable.name} by its value`}
            onClick={() => edit((before) => dropVariable(before, variable.name))}
            className="text-soft hover:text-ink"
          >
            inline
          </button>
        </div>
      ))}
    </Part>
  );
}

/** What was changed against the captured request. */
function ChangesPart({ captureId, kept }: { readonly captureId: string; readonly kept: KeptDraft }) {
  const [captured, setCaptured] = useState<Draft>();
  const { exchange } = kept;
  useEffect(() => {
    if (exchange === undefined) return;
    let isCurrent = true;
    fetchDossier(captureId, exchange).then((answer) => {
      if (isCurrent && answer.ok) setCaptured(draftFromExchange(answer.value.exchange, 'faithful'));
    });
    return () => {
      isCurrent = false;
    };
  }, [captureId, exchange]);
  if (captured === undefined) return null;
  const changes = changesOf(captured, kept.draft);
  return (
    <Part title="Changes">
      {changes.length === 0 ? <p className="text-soft">None: this is the captured request.</p> : null}
      <ul>
        {changes.map((change) => (
          <li key={change}>{change}</li>
        ))}
      </ul>
    </Part>
  );
}
