// What crosses between the server and the page: messages.ts names the shapes, columns.ts packs the exchange list.
export { type PackedRows, packRows, unpackRows } from './columns';
export type {
  BodyView,
  CaptureCard,
  ExchangeDossier,
  ImportProgress,
  ImportResult,
  ProblemAnswer,
} from './messages';
