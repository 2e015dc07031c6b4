// Two exchanges compared with each other, part by part (exchanges.ts).
export { type ComparedSide, compareExchanges, type Difference, type ExchangeComparison, PARTS } from './exchanges';
