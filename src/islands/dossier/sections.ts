/** The dossier's sections, in order; their places are their keys. */
export const SECTIONS = [
  'Story',
  'Timing',
  'Request',
  'Payload',
  'Response',
  'Body',
  'Cookies',
  'Cache',
  'Relations',
] as const;
