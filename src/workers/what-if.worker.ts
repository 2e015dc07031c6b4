import type { PageOverview } from '#core/analysis';
import { WhatIf, type WhatIfAnswer, type WhatIfQuestion } from '#core/brief';
import { type ProblemAnswer, unpackRows } from '#core/wire';
import { fetchPackedRows } from '../islands/state/api';

// Plays a page's load with changes, away from the page: with a hundred thousand exchanges its making takes seconds.

/** First the page, once; then questions, each with a number of its own. */
export type ToWhatIfWorker =
  | { readonly type: 'page'; readonly captureId: string; readonly page: PageOverview | undefined }
  | { readonly type: 'ask'; readonly number: number; readonly question: WhatIfQuestion };

export type FromWhatIfWorker =
  | { readonly type: 'answer'; readonly number: number; readonly answer: WhatIfAnswer | undefined }
  | { readonly type: 'problem'; readonly problem: ProblemAnswer };

const say = (message: FromWhatIfWorker): void => postMessage(message);

let making: Promise<WhatIf | undefined> = Promise.resolve(undefined);

addEventListener('message', ({ data }: MessageEvent<ToWhatIfWorker>) => {
  if (data.type === 'page') {
    making = make(data.captureId, data.page);
    return;
  }
  answer(data.number, data.question).catch(() =>
    say({
      type: 'problem',
      problem: {
        code: 'internal',
        sentence: 'The load could not be played again.',
        advice: 'Load this page again; if that fails too, the capture is odd.',
      },
    }),
  );
});

async function make(captureId: string, page: PageOverview | undefined): Promise<WhatIf | undefined> {
  const fetched = await fetchPackedRows(captureId);
  if (!fetched.ok) {
    say({ type: 'problem', problem: fetched.problem });
    return undefined;
  }
  const rows = unpackRows(fetched.value);
  return new WhatIf(page === undefined ? rows : rows.filter(({ pageId }) => pageId === page.id), page);
}

async function answer(number: number, question: WhatIfQuestion): Promise<void> {
  const whatIf = await making;
  if (whatIf !== undefined) say({ type: 'answer', number, answer: whatIf.ask(question) });
}
