import { useMemo } from 'react';
import { fileNameOf, type GraphqlCall, readGraphql, readPayloadContent } from '#core/content';
import { type RequestPart, sentPayloadBytes } from '#core/model';
import { formatBytes } from '#core/wording';
import { ContentView } from '../content/ContentView';
import { contentOfBytes, contentOfText } from '../content/content-of';
import { saveFile } from '../export/save-file';
import type { HitTarget } from '../state/hit';
import { CopyButton } from '../ui/CopyButton';
import { FieldList } from './FieldList';
import { Unfolding } from './Unfolding';

interface PayloadSectionProps {
  readonly request: RequestPart;
  readonly hit: HitTarget | undefined;
}

/** What is known of a payload that the capture does not have. */
function noPayloadWords(request: RequestPart): string {
  const sentBytes = sentPayloadBytes(request);
  if (sentBytes === 'some') return 'The request sent a payload that was not recorded.';
  if (sentBytes === 0 && request.bodyBytes === undefined) return 'No request payload was recorded.';
  return sentBytes > 0 ? `The request sent ${formatBytes(sentBytes)} that was not recorded.` : 'No request payload.';
}

/**
 * What the request carried: GraphQL operations told apart, forms by field, JSON as a tree; the raw text a key away.
 * Long because each form that a payload can have is shown here in its own way, one after the other.
 */
export function PayloadSection({ request, hit }: PayloadSectionProps) {
  const { payload } = request;
  const read = useMemo(
    () => (payload === undefined ? undefined : readPayloadContent(payload, request.bodyBytes)),
    [payload, request.bodyBytes],
  );
  const content = useMemo(() => {
    if (read?.type !== 'bytes' || read.bytes.length === 0) return undefined;
    return contentOfBytes(read.bytes, payload?.mimeType, fileNameOf(request.url, payload?.mimeType, undefined));
  }, [read, payload, request.url]);
  const graphql = useMemo(
    () => readGraphql(request.url, payload?.mimeType, content?.text),
    [request.url, payload, content],
  );
  if (payload === undefined) {
    return (
      <>
        <p className="text-soft">{noPayloadWords(request)}</p>
        {graphql?.calls.map((call) => (
          <Operation key={call.name} call={call} />
        ))}
      </>
    );
  }
  return (
    <>
      <p className="mb-1 flex gap-3 text-soft">
        {payload.mimeType ?? 'of an unknown type'}
        {content === undefined ? null : (
          <>
            , {formatBytes(content.byteLength)}
            <span className="ml-auto flex gap-3">
              {content.text === undefined ? null : (
                <CopyButton label="Copy the payload" text={() => content.text ?? ''} />
              )}
              <button
                type="button"
                className="text-[12px] underline hover:text-ink"
                onClick={() => saveFile(content.fileName, new Blob(content.bytes === undefined ? [] : [content.bytes]))}
              >
                save
              </button>
            </span>
          </>
        )}
      </p>
      {graphql === undefined ? null : (
        <>
          {graphql.isBatched ? <p className="text-soft">{graphql.calls.length} operations in one request</p> : null}
          {graphql.calls.map((call, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: operations never change their order.
            <Operation key={at} call={call} />
          ))}
        </>
      )}
      {read?.type === 'parts' ? (
        <FieldList
          fields={read.parts.map(({ name, value, fileName, contentType }) => ({
            name,
            value:
              fileName === undefined ? value : `file ${fileName}${contentType === undefined ? '' : `, ${contentType}`}`,
          }))}
          noteFor={({ value }) => <Unfolding value={value} />}
        />
      ) : null}
      {read?.type === 'unrecorded' ? (
        <p className="text-soft">Its content was not recorded. Record again and save with content.</p>
      ) : null}
      {content === undefined || graphql === undefined ? null : (
        <h4 className="text-[13px] text-soft">As it was sent</h4>
      )}
      {content === undefined ? null : (
        <ContentView
          content={content}
          hit={hit?.place === 'request payload' ? hit : undefined}
          rawAction={{
            id: 'raw-payload',
            label: 'Dossier: the raw payload and back',
            keys: ['p'],
            rank: 'exchange',
          }}
        />
      )}
    </>
  );
}

/** One GraphQL operation: its type and name, its query formatted with its fragments folded, its variables. */
function Operation({ call }: { readonly call: GraphqlCall }) {
  const { query, fragments, persistedHash } = call;
  const variables = useMemo(
    () =>
      call.variables === undefined || call.variables === '{}'
        ? undefined
        : contentOfText(call.variables, 'application/json', 'variables.json'),
    [call.variables],
  );
  return (
    <div data-operation className="mb-3">
      <p className="flex gap-2">
        <span>
          GraphQL {call.type ?? 'operation'} <b className="font-semibold">{call.name ?? 'without a name'}</b>
        </span>
        {query === undefined ? null : (
          <span className="ml-auto">
            <CopyButton
              label="Copy the query with its fragments"
              text={() => [query, ...fragments.map(({ text }) => text)].join('\n\n')}
            >
              copy query
            </CopyButton>
          </span>
        )}
      </p>
      {persistedHash === undefined ? null : (
        <p className="break-all text-[13px] text-soft">
          Persisted query {persistedHash}
          {query === undefined ? ': the service knows it by this hash, so its text was not sent.' : '.'}
        </p>
      )}
      {call.problem === undefined ? null : <p className="text-[13px] text-failed">{call.problem}</p>}
      {query === undefined ? null : <QueryText text={query} />}
      {fragments.map(({ name, text }) => (
        <details key={name} className="mt-1">
          <summary className="text-[13px]">fragment {name}</summary>
          <QueryText text={text} />
        </details>
      ))}
      {variables === undefined ? null : (
        <>
          <h4 className="mt-1 text-[13px] text-soft">Variables</h4>
          <ContentView content={variables} hit={undefined} />
        </>
      )}
    </div>
  );
}

const QueryText = ({ text }: { readonly text: string }) => (
  <pre className="max-h-80 overflow-auto whitespace-pre-wrap break-words border border-line bg-paper p-2 font-mono text-[12px]">
    {text}
  </pre>
);
