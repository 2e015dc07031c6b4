// What held a load up: its route with evidence (page.ts) and the ledger that adds up to it (ledger.ts), in a sentence (sentence.ts);
// its legs in words (leg-words.ts); and how long it would have taken had something been otherwise (play.ts), with six
// connections to a host (queue.ts) and a connection to the network that may be full (pipe.ts), asked after in what-if.ts.

export type { Change } from './change';
export { documentAnswersMs } from './document';
export type { Ledger, Sides } from './ledger';
export { tellLegs } from './leg-words';
export { type BriefPage, plotPage } from './page';
export { Load } from './play';
export type { Confidence, PlottedLeg } from './plotted-leg';
export { briefSentences, tellBrief, tellCard } from './sentence';
export { WHAT_IF_KINDS, WhatIf, type WhatIfAnswer, type WhatIfKind, type WhatIfQuestion } from './what-if';
