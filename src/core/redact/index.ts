// Redaction: what is secret in a capture (find.ts, names.ts, shapes.ts), kept once with its placeholder (store.ts), replaced wherever
// and however it is written (redactor.ts, variants.ts, layers.ts; bodies as text: unpacked.ts), and proven to be gone (proof.ts,
// same-analysis.ts).
export { withBlankBody, withoutBody } from './bodies';
export { choiceOf, type HandOffChoice, OwnWordError, readOwnWord } from './choice';
export type { EntryTools } from './entry';
export { findInEntry, findInText, findOwn } from './find';
export { KIND_WORDS, KINDS_OF_PRESET, PRESETS, type RedactPreset, SECRET_KINDS, type SecretKind } from './kinds';
export { type ExchangePreview, type PreviewLine, type PreviewMessage, previewExchange } from './preview';
export { type Leak, Prover } from './proof';
export { Redactor, type Stretch } from './redactor';
export { differencesInAnalysis } from './same-analysis';
export { type Secret, SecretStore } from './store';
export { countKinds, countText, isProven, type KindCount, type ProofLine, proofText, unreadText } from './told';
