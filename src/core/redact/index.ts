// Redaction: what is secret in a capture (find.ts, names.ts, shapes.ts), kept once with its placeholder (store.ts), replaced wherever
// and however it is written (redactor.ts, variants.ts), and proven to be gone (proof.ts, same-analysis.ts).
export { withBlankBody, withoutBody } from './bodies';
export { findInEntry, findInText } from './find';
export { KIND_WORDS, PRESETS, type RedactPreset } from './kinds';
export { type Leak, Prover } from './proof';
export { Redactor } from './redactor';
export { type AnalysedCapture, differencesInAnalysis } from './same-analysis';
export { type Secret, SecretStore } from './store';
