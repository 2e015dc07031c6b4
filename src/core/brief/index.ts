// What held a load up: its route with evidence and the ledger that adds up to it (page.ts), in a sentence (sentence.ts);
// its legs in words (leg-words.ts); and how long it would have taken had something been otherwise (what-if.ts).
export { tellLegs } from './leg-words';
export {
  type BriefPage,
  type Confidence,
  isPauseBeforeRetry,
  type Ledger,
  type PlottedLeg,
  plotPage,
} from './page';
export { briefSentences, tellBrief, tellCard } from './sentence';
export { type Change, documentAnswersMs, simulate } from './what-if';
