// Loads compared (loads.ts): exchanges matched (match.ts), the ledgers' difference, what made it by a play on both graphs
// as one (graph.ts, causes.ts); several loads a side (sides.ts), one group of loads (group.ts); in words (tell.ts). And two
// exchanges compared with each other, part by part (exchanges.ts).
export type { Cause, Causes } from './causes';
export type { SpentOn } from './difference';
export { type ComparedSide, compareExchanges, type Difference, type ExchangeComparison, PARTS } from './exchanges';
export { compareGroup, type GroupComparison, LEAST_OF_GROUP } from './group';
export { type HostMap, HostMapError, readHostMap, unmetHosts } from './hosts';
export { type ComparedLoad, type ExchangeTraits, takeTraits } from './load';
export type { LoadComparison } from './loads';
export { type Corrections, NO_CORRECTIONS } from './match';
export { DELTAS, type DeltaName, deltaOf, PAIR_CHANGES, type Pair, type PairChange } from './pair';
export { readPastedExchange } from './pasted';
export { comparisonJson, comparisonLines, groupJson, groupLines, SPENT_NAME } from './print';
export { compareSides, findDrawn, type SidesComparison } from './sides';
export type { SumOfBoth } from './sums';
export { noiseOf, remarksOn, tellComparison } from './tell';
export { nameShared, tellGroup } from './tell-group';
export {
  MATCHED_WORDS,
  nameBoth,
  nameCause,
  nameCauses,
  shortEndpoint,
  tellCause,
  tellFacts,
  tellTimes,
} from './tell-pair';
export { tellConnections, tellVisits, whyFetchedAgain } from './tell-visits';
