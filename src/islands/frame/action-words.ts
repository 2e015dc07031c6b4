// Everyday words by which people look for an action, besides those of its label.

const WORDS: readonly (readonly [id: RegExp, words: string])[] = [
  [/^filter$/, 'search narrow only hide query status 404 failed slow'],
  [/^filter-/, 'narrow only'],
  [/^hide-third$/, 'third party parties first ads trackers'],
  [/^hide-report$/, 'beacons telemetry csp'],
  [/^hide-extension$/, 'addon plugin'],
  [/^find$/, 'search text body bodies value content grep'],
  [/^go-shelf$/, 'home captures files open list'],
  [/^go-brief$/, 'summary overview answer findings route report'],
  [/^go-waterfall$/, 'timeline chart requests list table'],
  [/^go-find$/, 'search text body value'],
  [/^go-endpoints$/, 'api calls group statistics'],
  [/^go-drafts$/, 'edit resend request code python powershell node fetch php java go convert'],
  [/^go-reference$/, 'help glossary meaning header status explain docs'],
  [/^actions$/, 'help commands'],
  [/^keys$/, 'help shortcuts keyboard'],
  [/^compare$/, 'diff difference against two'],
  [/^pick$/, 'open upload import load file har add'],
  [/^search$/, 'find filter'],
  [/^export$/, 'save download csv json har svg png picture code python node script export'],
  [/^curl$/, 'terminal shell bash convert command export'],
  [/^curl-lean$/, 'minimal short terminal shell bash'],
  [/^copy-last$/, 'again code convert powershell cmd windows python clipboard'],
  [/^copy-(?:curl|python|node)/, 'code convert clipboard terminal'],
  [/^draft$/, 'edit resend replay change modify code python powershell convert'],
  [/^copy-link$/, 'share url address'],
  [/^number$/, 'go to jump exchange request entry'],
  [/^legend$/, 'help explain colours colors meaning'],
  [/^measure$/, 'column size duration wait bytes'],
  [/^arrange$/, 'sort order by slowest largest'],
  [/^lanes$/, 'group by host domain kind type party'],
  [/^whole$/, 'reset zoom all fit'],
  [/^zoom-|^closer$|^farther$/, 'zoom range magnify'],
  [/^route-/, 'critical path chain leg'],
  [/^delete-/, 'remove'],
  [/^look-/, 'theme dark light night day blueprint paper mode'],
  [/^zone/, 'time zone utc local'],
  [/^raw-/, 'source text formatted pretty'],
];

/** Whether an action is meant by words: each begins a word of its label or of what else it is called. */
export function isMeantBy(words: string, { id, label }: { readonly id: string; readonly label: string }): boolean {
  const known = WORDS.flatMap(([pattern, more]) => (pattern.test(id) ? more : [])).join(' ');
  const have = `${label} ${known}`.toLowerCase().split(/[^\p{L}\p{N}+]+/u);
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => word === '' || have.some((one) => one.startsWith(word)));
}
