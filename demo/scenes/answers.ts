import type { SiteAnswer, SiteOptions, SiteRequest } from '../site';

/** What a site answers by host and path: `www.cumbrera.example/huts`. */
export type Answers = Readonly<Record<string, SiteAnswer | ((request: SiteRequest) => SiteAnswer)>>;

export const html = (body: string, rest: SiteAnswer = {}): SiteAnswer => ({
  ...rest,
  body: `<!doctype html><meta charset="utf-8"><link rel="icon" href="data:,"><title>Huts</title>${body}`,
  headers: { 'content-type': 'text/html; charset=utf-8', ...rest.headers },
});
export const script = (body: string, rest: SiteAnswer = {}): SiteAnswer => ({
  ...rest,
  body,
  headers: { 'content-type': 'text/javascript', ...rest.headers },
});
export const json = (value: unknown, rest: SiteAnswer = {}): SiteAnswer => ({
  ...rest,
  body: JSON.stringify(value),
  headers: { 'content-type': 'application/json', ...rest.headers },
});

/** Hosts that answer by path; what is not among them is 404. */
export function hostsOf(answers: Answers): NonNullable<SiteOptions['handlers']> {
  const hosts = [...new Set(Object.keys(answers).map((key) => key.split('/')[0] ?? ''))];
  return Object.fromEntries(
    hosts.map((host) => [
      host,
      (request: SiteRequest): SiteAnswer => {
        const answer = answers[`${host}${request.path}`];
        return (typeof answer === 'function' ? answer(request) : answer) ?? { status: 404, body: 'nothing here' };
      },
    ]),
  );
}
