import type { Draft } from './draft';

/** The draft with every credential's value replaced by a placeholder that names it, to show or send to others. */
export function maskCredentials(draft: Draft): Draft {
  const headers = draft.headers.map((header) =>
    header.role === 'credential' ? { ...header, value: `<${header.name.toLowerCase()}>` } : header,
  );
  return { ...draft, headers };
}
