import { useContext } from 'react';
import { type JsonTree, keyOf, nodeText, PATH_STYLES, type PathStyle, pathTo, plainValue } from '#core/json';
import { CredentialNote } from '../dossier/CredentialNote';
import { Moment, Unfolding } from '../dossier/Unfolding';
import { CopyButton } from '../ui/CopyButton';

const STYLE_WORDS: Record<PathStyle, string> = {
  jsonpath: 'path',
  javascript: 'JavaScript',
  python: 'Python',
  jq: 'jq',
};
/** Longer values than a row shows are repeated below it, up to here. */
const SHOWN_IN_ROW = 60;
const SHOWN_CHARS = 4000;
const SHOWN_PATH_CHARS = 200;

/** The value under the cursor: its path, ways to copy it, and what it says once it is unfolded. */
export function NodeDetail({ tree, node }: { readonly tree: JsonTree; readonly node: number }) {
  const { at: startedAt } = useContext(Moment);
  const isPlain = (tree.kinds[node] ?? 0) >= 2;
  const path = pathTo(tree, node, 'jsonpath');
  const value = isPlain ? plainValue(tree, node) : undefined;
  const key = keyOf(tree, node);
  return (
    <div className="border border-line border-t-0 bg-sheet px-2 py-1 text-[12px]">
      <p className="flex flex-wrap items-baseline gap-x-2">
        <span data-json-path className="min-w-0 break-all font-mono text-ink">
          {path.length <= SHOWN_PATH_CHARS ? path : `${path.slice(0, 40)} … ${path.slice(-SHOWN_PATH_CHARS)}`}
        </span>
        <span className="ml-auto flex flex-wrap gap-x-2">
          <CopyButton
            label="Copy the value"
            text={() => value ?? nodeText(tree, node)}
            withName={() => `${key ?? '$'}: ${value ?? nodeText(tree, node)}`}
          >
            value
          </CopyButton>
          {PATH_STYLES.map((style) => (
            <CopyButton
              key={style}
              label={`Copy the path for ${STYLE_WORDS[style]}`}
              text={() => pathTo(tree, node, style)}
            >
              {STYLE_WORDS[style]}
            </CopyButton>
          ))}
        </span>
      </p>
      {value === undefined ? null : (
        <>
          {value.length <= SHOWN_IN_ROW ? null : (
            <p className="max-h-32 overflow-y-auto whitespace-pre-wrap break-words font-mono">
              {value.slice(0, SHOWN_CHARS)}
              {value.length > SHOWN_CHARS ? '…' : ''}
            </p>
          )}
          <Unfolding value={value} />
          <CredentialNote value={value} at={startedAt} />
        </>
      )}
    </div>
  );
}
