// What crosses between the server and the page: messages.ts, trials.ts, runs.ts and loads.ts name the shapes, columns.ts packs the exchange list.
export {
  DIAGNOSED_HEADER,
  joinBlocks,
  openBlocks,
  type PackedBlock,
  type PackedRows,
  type PackedTexts,
  packBlocks,
  packRows,
  packTexts,
  RowBlock,
  unpackRows,
} from './columns';
export {
  HAND_OFF_PHASES,
  type HandOffOrder,
  type HandOffProgress,
  type ListedSecret,
  type MadeHandOff,
  type ReportProgress,
} from './hand-off';
export {
  type ComparedHead,
  type ExchangeFrom,
  type ExchangesAnswer,
  type LoadAnswer,
  packTraits,
  unpackTraits,
} from './loads';
export type {
  BodyView,
  CaptureCard,
  ExchangeDossier,
  FindProgress,
  ImportProgress,
  ImportResult,
  ProblemAnswer,
} from './messages';
export type {
  AskedExchange,
  AskedNotes,
  Rehearsal,
  RehearsalOrder,
  RehearsalSeen,
  ResponseVariant,
} from './rehearsals';
export {
  RUN_KINDS,
  type Run,
  type RunAnswer,
  type RunBegin,
  type RunKind,
  type RunOrder,
  type RunResult,
  type RunSeen,
  type RunStep,
  type TrimResult,
  type WatchResult,
} from './runs';
export type {
  Held,
  HeldDifference,
  Measure,
  SendLeave,
  SendQuestion,
  SentSheet,
  Trial,
  TrialAnswer,
  TrialNotes,
  TrialProgress,
  ValueOrigin,
} from './trials';
