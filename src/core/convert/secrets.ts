import { bytesFromText, FORM_FIELD, findSecrets, type SecretText, textFromBytes } from '../content';
import { findHeader } from '../model';
import type { Draft } from './draft';
import { nameGiver } from './edit';
import { mapTexts } from './texts';
import { readValue } from './value';

// Secrets of a draft, by the one finder that redaction uses too: lifted into variables, or masked.

/** A secret as it is written in a draft; one that is encoded where it is written is another text there. */
interface FoundSecret {
  readonly raw: string;
  readonly value: string;
  readonly name: string;
}

/** Shorter ones are replaced where they were found; longer ones wherever else the same text is written. */
const LEAST_ANYWHERE = 8;

/** What kind of text secrets are looked for in. */
type Change = (text: string, where: SecretText) => string;

/** The draft with each text of it that is sent changed, by what kind of text it is. Headers that are left out stay. */
function mapPlaces(draft: Draft, change: Change): Draft {
  const contentType = findHeader(draft.headers, 'content-type') ?? '';
  const payloadType: SecretText = { type: /x-www-form-urlencoded/i.test(contentType) ? 'form' : 'text' };
  const { payload } = draft;
  // Of a multipart form as one text each field is what its name says.
  const inFields = (text: string): string =>
    /multipart\/form-data/i.test(contentType)
      ? text.replace(
          FORM_FIELD,
          (_, head: string, name: string, value: string) => head + change(value, { type: 'named', name }),
        )
      : text;
  return {
    ...draft,
    url: change(draft.url, { type: 'url' }),
    headers: draft.headers.map((header) =>
      header.kept ? { ...header, value: change(header.value, { type: 'named', name: header.name }) } : header,
    ),
    payload:
      payload.type === 'text'
        ? { type: 'text', text: inFields(change(payload.text, payloadType)) }
        : payload.type === 'parts'
          ? {
              ...payload,
              parts: payload.parts.map((part) => {
                const text = part.bytes === undefined ? undefined : textFromBytes(part.bytes);
                if (text === undefined || part.fileName !== undefined) return part;
                const changed = change(text, { type: 'named', name: part.name });
                return changed === text ? part : { ...part, bytes: bytesFromText(changed) };
              }),
            }
          : payload,
  };
}

/** The draft with every secret replaced: where it was found, and wherever else the same text is written. */
function replaceSecrets(draft: Draft, substitute: (secret: FoundSecret) => string): Draft {
  const known = new Map<string, FoundSecret>();
  const isMarked = (text: string): boolean => readValue(text, draft.variables).some((piece) => 'variable' in piece);
  const inPlace = mapPlaces(draft, (text, where) => {
    let replaced = '';
    let at = 0;
    for (const { start, end, name, value } of findSecrets(text, where)) {
      const raw = text.slice(start, end);
      // A variable that is there already stays what it is.
      if (isMarked(raw)) continue;
      const secret = known.get(raw) ?? { raw, value, name };
      known.set(raw, secret);
      replaced += text.slice(at, start) + substitute(secret);
      at = end;
    }
    return replaced + text.slice(at);
  });
  const everywhere = [...known.values()].filter(({ raw }) => raw.length >= LEAST_ANYWHERE);
  return everywhere.length === 0 ? inPlace : mapTexts(inPlace, replacer(everywhere, substitute));
}

/** Replaces each of the secrets wherever it stands, the longest where several begin; in one pass, however many they are. */
function replacer(secrets: readonly FoundSecret[], substitute: (secret: FoundSecret) => string) {
  const byText = new Map(secrets.map((secret) => [secret.raw, secret]));
  /** The lengths of those that begin alike, the longest first. */
  const lengths = new Map<string, Set<number>>();
  for (const { raw } of [...secrets].sort((one, other) => other.raw.length - one.raw.length)) {
    const beginning = raw.slice(0, LEAST_ANYWHERE);
    lengths.set(beginning, (lengths.get(beginning) ?? new Set()).add(raw.length));
  }
  const firsts = new Set(secrets.map(({ raw }) => raw.charCodeAt(0)));
  return (text: string): string => {
    let replaced = '';
    let copied = 0;
    for (let at = 0; at + LEAST_ANYWHERE <= text.length; at++) {
      if (!firsts.has(text.charCodeAt(at))) continue;
      let secret: FoundSecret | undefined;
      for (const length of lengths.get(text.slice(at, at + LEAST_ANYWHERE)) ?? []) {
        secret = byText.get(text.slice(at, at + length));
        if (secret !== undefined) break;
      }
      if (secret === undefined) continue;
      replaced += text.slice(copied, at) + substitute(secret);
      copied = at + secret.raw.length;
      at = copied - 1;
    }
    return replaced + text.slice(copied);
  };
}

/** What a secret is called as a variable: the header Authorization holds a token. */
const variableName = (name: string): string => (/^(?:proxy-)?authorization$/i.test(name) ? 'token' : name);

/** The draft with its secrets as secret variables, the same one for every place of a secret: code reads them from the environment. */
export function liftSecrets(draft: Draft): Draft {
  const freeName = nameGiver(draft);
  const variables = [...draft.variables];
  const names = new Map<string, string>();
  const changed = replaceSecrets(draft, ({ raw, value, name }) => {
    const before = names.get(raw);
    if (before !== undefined) return `‹${before}›`;
    const wanted = raw === value ? variableName(name) : `${variableName(name)}_encoded`;
    const free = freeName(wanted);
    names.set(raw, free);
    variables.push({ name: free, value: raw, isSecret: true });
    return `‹${free}›`;
  });
  return { ...changed, variables };
}

/**
 * The draft with every secret replaced by a placeholder that names it, to show or send to others. It is plain text that
 * fits wherever the secret stood: "masked-token".
 */
export const maskSecrets = (draft: Draft): Draft =>
  replaceSecrets(
    draft,
    ({ name }) =>
      `masked-${name
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')}`,
  );
