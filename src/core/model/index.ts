// The words of the product as types. Start with capture.ts, then exchange.ts.
export { type EpochMs, type ExchangeIndex, epochMs, exchangeIndex, type PageId, pageId } from './brand';
export {
  type Capture,
  type Completeness,
  findMilestoneMs,
  type Milestone,
  type Page,
  type ProgramName,
  type ReadingOddities,
} from './capture';
export {
  type Exchange,
  findFailure,
  findField,
  findHeader,
  findLines,
  findResponse,
  findStatus,
  type Judged,
  type NameValue,
  type Outcome,
  type Payload,
  type PayloadParam,
  type RecordedText,
  type RequestPart,
  type ResponsePart,
  type StreamMessage,
  sentPayloadBytes,
} from './exchange';
export { FAIL_REASONS, type FailReason, type Failure, packFailure, unpackFailure } from './failure';
export { hashText } from './hash';
export { isFromCopy, KINDS, type Kind, PARTIES, type Party, SOURCES, type Source, sparesTheNetwork } from './kinds';
export { firstByteMs, NO_PHASES, PHASES, type PhaseName, type Phases, setupMs, sumPhases } from './phases';
