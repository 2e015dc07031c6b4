/** A type and a subtype of token characters (WHATWG MIME Sniffing 4.4). */
const ESSENCE = /^([!#$%&'*+.^_`|~0-9a-z-]+\/[!#$%&'*+.^_`|~0-9a-z-]+)[\t\n\f\r ]*(?:;|$)/;

/** The types that name JavaScript (WHATWG MIME Sniffing 4.6). */
const SCRIPT_TYPE =
  /^(?:application\/(?:x-)?(?:java|ecma)script|text\/(?:x-)?(?:java|ecma)script|text\/javascript1\.[0-5]|text\/(?:j|live)script)$/;

/**
 * The type that browsers take a Content-Type for, without parameters and in lower case: the last of a list that is one
 * (Fetch 2.2.2, extract a MIME type). Undefined where none is.
 */
export function browserType(contentType: string): string | undefined {
  // Commas inside quotes part nothing.
  const parts = contentType.match(/(?:"(?:[^"\\]|\\.)*"?|[^,"])+/g) ?? [];
  return parts
    .map((part) => ESSENCE.exec(part.trim().toLowerCase())?.[1])
    .findLast((essence) => essence !== undefined && essence !== '*/*');
}

export const isScriptType = (essence: string): boolean => SCRIPT_TYPE.test(essence);
