import { Command, CommanderError, Option } from 'commander';
import { visible } from '#core/wording';
import { tell } from './output';

// Commands are loaded when they run: help answers at once.

const LISTED = 'curl-sh, node-fetch, python-requests, php-curl, go or powershell';

const program = new Command('trazado')
  .description('Reads recorded page loads (HTTP Archives) and turns captured requests into something that runs.')
  .version('0.1.0')
  .showHelpAfterError(false)
  .exitOverride()
  .configureOutput({
    outputError: (text, write) => write(visible(text.trimEnd().replace(/^error: /, 'trazado: ')).concat('\n')),
  });

program
  .command('serve')
  .description('start the web app and import FILES')
  .argument('[files...]', 'HAR files to import')
  .option('--port <port>', 'port to listen on; without it the first free one from 4680')
  .option('--host <host>', 'address to listen on', '127.0.0.1')
  .option('--data <dir>', 'folder for the captures')
  .option('--allow-sending', 'let drafts be sent from here though --host opens the app to others')
  .option('--open', 'open the app in the browser')
  .action(async (files, options) => (await import('./commands/serve')).serve(files, options));

program
  .command('demo')
  .description('start the web app with the demo captures and the stand-in site')
  .option('--port <port>', 'port to listen on')
  .option('--open', 'open the app in the browser')
  .action(async (options) => (await import('./commands/demo')).demo(options));

program
  .command('token')
  .description('print the token by which programs push captures to the app')
  .option('--data <dir>', 'folder for the captures')
  .option('--demo', 'of the demo, which has a folder of its own')
  .option('--renew', 'make another in its place')
  .action(async (options) => (await import('./commands/token')).token(options));

program
  .command('summary')
  .description('print an overview: recorder, pages, counts, bytes, share from cache, failures, warnings')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--json', 'print JSON')
  .action(async (file, options) => (await import('./commands/summary')).summary(file, options));

program
  .command('explain')
  .description('explain what a load waited for: route, where the time went, findings')
  .argument('<file>', 'HAR file, or - for standard input')
  .option('--page <id>', 'the page, by its id or number; the first one if omitted')
  .option(
    '--to <goal>',
    'where the route leads: loaded, dom-ready, another milestone by name, or an exchange, e.g. #12',
  )
  .option('--json', 'print JSON')
  .option('--secrets', 'show credentials; on a terminal they are masked')
  .option('--mask', 'mask credentials elsewhere, too')
  .action(async (file, options) => (await import('./commands/explain')).explain(file, options));

// An option that begins with "no-" is true until it is given.
const gather = (value: string, before: readonly string[] | true | undefined): readonly string[] => [
  ...(Array.isArray(before) ? (before as string[]) : []),
  value,
];

program
  .command('check')
  .description('check a capture against budgets, e.g. in continuous integration; exit status 1 if one is exceeded')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--max <name=value>', 'a budget, e.g. loaded=3s, wire[kind=script]=100kB or exchanges=80; repeatable', gather)
  .option('--baseline <other>', 'a HAR file that --allow is held against, e.g. of the release before')
  .option(
    '--allow <name=+value>',
    'how much more than the baseline, e.g. loaded=+10% or wire=+50kB; repeatable',
    gather,
  )
  .option('--no-finding <rule>', 'a rule that must find nothing; repeatable', gather)
  .option('--json', 'print JSON')
  .addOption(new Option('--junit', 'print JUnit XML').conflicts('json'))
  .action(async (file, options) => (await import('./commands/check')).check(file, options));

program
  .command('compare')
  .description('compare loads: what differs, how much, what made it; several files without --sides are one group')
  .argument('<files...>', 'HAR files, from which and to which; FILE#2 is the second page of one')
  .option('--sides <n,m>', 'how many of the files are one side, and how many the other; 1,1 for two files')
  .option('--map <host=host>', 'two hosts that stand for one, as staging and production do; repeatable', gather)
  .option('--json', 'print JSON')
  .action(async (files, options) => (await import('./commands/compare')).compare(files, options));

program
  .command('list')
  .description('list the exchanges, one per line')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--where <filter>', 'only exchanges that match the filter')
  .option('--page <id>', 'only exchanges of this page, by its id or number')
  .option('--json', 'print JSON')
  .option('--secrets', 'show credentials; on a terminal they are masked')
  .option('--mask', 'mask credentials elsewhere, too')
  .action(async (file, options) => (await import('./commands/list')).list(file, options));

program
  .command('show')
  .description('print one exchange in full')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<n>', 'number of the exchange: its place in log.entries, from 0')
  .option('--json', 'print JSON')
  .addOption(new Option('--body', 'write its decoded body to standard output').conflicts('json'))
  .option('--secrets', 'show credentials; on a terminal they are masked')
  .option('--mask', 'mask credentials elsewhere, too')
  .action(async (file, n, options) => (await import('./commands/show')).show(file, n, options));

program
  .command('convert')
  .description('turn a captured request into a curl command or code')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('[n]', 'number of the exchange: its place in log.entries, from 0')
  .requiredOption('--to <target>', 'output format; "trazado targets" lists them')
  .option('--preset <preset>', 'faithful (as captured) or lean (without what only browsers add)', 'faithful')
  .option('--mask', 'replace credentials with placeholders')
  .option('--all', 'convert every exchange')
  .option('--out <dir>', 'with --all: folder to write DIR/N.EXT into')
  .addOption(
    new Option('--files <dir>', 'write the code into a folder, with the files that it uploads beside it').conflicts([
      'all',
      'script',
    ]),
  )
  .addOption(new Option('--script', `write all requests as one script (${LISTED})`).conflicts('all'))
  .option('--where <filter>', 'with --all or --script: only exchanges that match the filter')
  .option('--go-on', 'with --script: go on where a step fails')
  .option('--comments', 'include left-out headers as comments')
  .option('--headers <how>', 'map, or calls (one call per header)')
  .option('--secrets-from-env', 'read credentials from environment variables')
  .option('--time-limit <seconds>', 'seconds to wait for the response')
  .option('--redirects <what>', 'what to do with redirects: follow or stop')
  .option('--proxy <address>', 'use a proxy')
  .option('--ignore-certificate', 'skip TLS certificate verification')
  .option('--function', 'write the code as a function')
  .option('--prints <what>', 'what the code outputs: body, status or file')
  .action(async (file, n, options) => (await import('./commands/convert')).convert(file, n, options));

program
  .command('loop')
  .description('write a captured request as code that loops: through pages, until something is so, over a list')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<n>', 'number of the exchange: its place in log.entries, from 0')
  .requiredOption('--to <target>', LISTED)
  .requiredOption('--kind <kind>', 'pages, follow, values, days, poll, table or files')
  .option('--preset <preset>', 'faithful (as captured) or lean (without what only browsers add)', 'faithful')
  .option('--parameter <name>', 'pages: what counts them, in the query, a form, JSON, a header, or path.3', 'page')
  .option('--from <n>', 'pages: the first value; the captured one if omitted')
  .option('--last <n>', 'pages: the last value; as the responses say if omitted')
  .option('--step <n>', 'pages: what is added each time, or rows: as many as came')
  .option('--list <path>', 'where the list is, e.g. $.items; the longest of the captured response if omitted')
  .option('--values <list>', 'values: with commas between them')
  .option('--first-day <day>', 'days: the first, e.g. 2026-03-01 or 20260301')
  .option('--last-day <day>', 'days: the last')
  .option('--total <path>', 'pages: where responses say how many rows there are, e.g. $.total or "header X-Total"')
  .option('--pages <path>', 'pages: where responses say how many pages there are')
  .option('--short-ends', 'pages: a page with fewer rows than the first is the last')
  .option('--next <path>', 'follow: where responses name the next page, e.g. $.next or "header Link"')
  .option('--cursor <name>', 'follow: the parameter that it goes into; empty where it is a URL')
  .option('--rows <format>', 'csv, or jsonl (each row as it comes)')
  .option('--most <n>', 'pages or tries after which it stops')
  .option('--at <path>', 'poll: the place that is waited for, e.g. $.status')
  .option('--until <value>', 'poll: what it is waited to be')
  .option('--status <n>', 'poll: the status that is waited for, in place of that')
  .option('--pause <ms>', 'ms between requests')
  .option('--folder <dir>', 'files: the folder to download into')
  .option('--secrets-from-env', 'read credentials from environment variables')
  .action(async (file, n, options) => (await import('./commands/loop')).loop(file, n, options));

/** Options of commands that send a request. */
const sends = (command: Command): Command =>
  command
    .argument('[file]', 'a HAR file; without one the request is read from standard input')
    .argument('[n]', 'number of the exchange: its place in log.entries, from 0')
    .option('--preset <preset>', 'faithful (as captured) or lean (without what only browsers add)', 'faithful')
    .option('--header <line>', 'a header to send, "Name: value", in place of one of that name; repeatable', gather, [])
    .option('--without <name>', 'a header to leave out; repeatable', gather, [])
    .option('--query <name=value>', 'a parameter of the query to set; repeatable', gather, [])
    .option('--body <text>', 'a payload to send, or @FILE')
    .option('--to-host <host=address>', 'send to another address (and port) than the host has; repeatable', gather, [])
    .option('--time-limit <seconds>', 'seconds to wait for each response; 30 if omitted')
    .option('--http2', 'over HTTP/2 where the server takes it')
    .option('--proxy <host:port>', 'through an HTTP proxy')
    .option('--ignore-certificate', 'skip TLS certificate verification')
    .option('--allow-private', 'send to a private network what was captured from a public one');

/** And of those that send it many times. */
const sendsMany = (command: Command): Command =>
  sends(command).option('--unsafe', 'send methods that may change something, too');

sends(program.command('send'))
  .description('send a captured request, or one from standard input, and hold the response against the captured one')
  .option('--times <n>', 'send it so often: what differs between these changes by itself')
  .option('--json', 'print JSON')
  .action(async (file, n, options) => (await import('./commands/send')).send(file, n, options));

sendsMany(program.command('trim'))
  .description('find by trials which headers, cookies, parameters and fields a request needs; print what is left')
  .option('--most <n>', 'requests after which it stops; 80 if omitted')
  .option('--to <target>', 'what the trimmed request is printed as', 'curl-sh')
  .option('--measure <what>', 'what the response has to stay like: captured, or now', 'captured')
  .option('--json', 'print JSON')
  .action(async (file, n, options) => (await import('./commands/trim')).trim(file, n, options));

sendsMany(program.command('series'))
  .description('send a request over a range of values and gather the lists of the responses as one table')
  .option(
    '--vary <name=values>',
    'NAME=1.., NAME=1..9, NAME=2026-03-01..2026-03-31, NAME=a,b,c, NAME=@FILE or @FILE.csv:COLUMN',
  )
  .option('--step <n>', 'what is added each time, or rows: as many as came')
  .addOption(
    new Option(
      '--next <path>',
      'in place of --vary: where responses name the next page, e.g. $.next or "header Link"',
    ).conflicts('vary'),
  )
  .option('--cursor <name>', 'the parameter that the next page goes into; none where it is a URL')
  .option('--list <path>', 'where the list is, e.g. $.items; the longest of the captured response if omitted')
  .option('--total <path>', 'where responses say how many rows there are')
  .option('--pages <path>', 'where responses say how many pages there are')
  .option('--short-ends', 'a page with fewer rows than the first is the last')
  .option('--most <n>', 'pages after which it stops; 100 if omitted')
  .option('--pause <ms>', 'ms between requests; 500 if omitted')
  .option('--at-once <n>', 'requests under way at once, up to 4')
  .option('--csv <out>', 'file for the table as CSV, or - for standard output, which it is if omitted')
  .option('--out <out>', 'file for the rows as JSON')
  .option('--lines <out>', 'file for the rows as JSON lines')
  .option('--with-value', 'with the value that each row came from')
  .option('--once', 'without rows that are there already')
  .option('--json', 'print what it came to as JSON')
  .action(async (file, n, options) => (await import('./commands/series')).series(file, n, options));

sendsMany(program.command('watch'))
  .description('send a request again every so often until its response meets a condition')
  .requiredOption('--until <condition>', 'e.g. "$.price < 30", "status = 200", "$.free changes", "$.items[0] is there"')
  .option('--every <time>', 'time between requests: 30s, 5min, 1h', '30s')
  .option('--most <n>', 'requests after which it ends; 1000 if omitted')
  .option('--json', 'print each as a line of JSON')
  .action(async (file, n, options) => (await import('./commands/watch')).watch(file, n, options));

program
  .command('rehearse')
  .description('run a server that answers as the capture did, for code or a page to run against')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--port <port>', 'port to listen on; a free one if omitted')
  .option('--host <host>', 'address to listen on', '127.0.0.1')
  .option('--where <filter>', 'only exchanges that match the filter')
  .option('--time <time>', 'recorded, none, or a factor: x2 takes twice as long', 'recorded')
  .option('--rewrite', "captured hosts are at addresses of the rehearsal's own, in what is given as well; the default")
  .addOption(new Option('--as-is', 'give everything byte for byte').conflicts('rewrite'))
  .option('--misses <how>', 'what becomes of requests that nothing fits: 404, or forward to the real host', '404')
  .option('--to-host <host=address>', 'where a host is forwarded to; repeatable', gather, [])
  .option('--tls', 'by HTTPS, with a certificate of its own, which is printed')
  .option('--exactly', 'tokens, cookies and what is new each time have to be the same, too')
  .option(
    '--change <change>',
    'change a response: "N status=503", "N delay=5s", "N header=Name: value", "N body=@FILE", "N list=empty", "N fails=reset"; repeatable',
    gather,
    [],
  )
  .option('--most <n>', 'end after so many requests')
  .option('--save <out>', 'write what was asked and given as a HAR file')
  .option('--json', 'print each request as a line of JSON')
  .action(async (file, options) => (await import('./commands/rehearse')).rehearse(file, options));

program
  .command('parse')
  .description('read requests from standard input: curl commands, HTTP messages, fetch calls')
  .option('--from <kind>', 'input format: curl-sh, curl-cmd, curl-ps, curl-config, http or fetch; detected if omitted')
  .action(async (options) => (await import('./commands/parse')).parse(options));

program
  .command('find')
  .description('search URLs, headers, payloads, bodies and messages, encoded or not')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<text>', 'text to search for')
  .option('--regex', 'TEXT is a regular expression')
  .option('--case', 'match case')
  .option('--word', 'match whole words only')
  .option('--json', 'print JSON')
  .action(async (file, text, options) => (await import('./commands/find')).find(file, text, options));

program
  .command('targets')
  .description('list what requests can be converted to')
  .option('--json', 'print JSON')
  .action(async (options) => (await import('./commands/targets')).targets(options));

program
  .command('save')
  .description('read a capture and write it again')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<out>', 'file to write, or - for standard output')
  .action(async (file, out) => (await import('./commands/save')).save(file, out));

program
  .command('bodies')
  .description('write response bodies to files in folders as the site has them')
  .argument('<file>', 'a HAR file, or - for standard input')
  .requiredOption('--out <dir>', 'folder to write into; a new or an empty one')
  .option('--where <filter>', 'only exchanges that match the filter')
  .option('--json', 'print JSON')
  .action(async (file, options) => (await import('./commands/bodies')).bodies(file, options));

program
  .command('report')
  .description('write a report of a page load for readers without Trazado; secrets are taken out, and that is proven')
  .argument('<file>', 'a HAR file, or FILE#2 for its second page')
  .requiredOption('--out <file>', 'file to write: its name ends in .html or .md')
  .option('--compare <other>', 'a HAR file to compare it with')
  .option('--parts <names>', 'only these parts, e.g. route,findings; the sentence is always in it')
  .option('--note <text>', 'the question, or what you want to say ahead of it; repeatable', gather)
  .option('--preset <preset>', 'who it is for: colleague, supplier or public; the more is taken out', 'colleague')
  .addOption(new Option('--secrets', 'leave secrets in it').conflicts('preset'))
  .action(async (file, options) => (await import('./commands/report')).report(file, options));

program
  .command('redact')
  .description('write a capture without its secrets, proven; exit status 1, and nothing written, if the proof fails')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<out>', 'file to write, or - for standard output')
  .option('--preset <preset>', 'who it is for: colleague, supplier or public; the more is taken out', 'colleague')
  .option('--word <word>', 'a word, or a /regular expression/, to take out everywhere; repeatable', gather)
  .option('--where <filter>', 'only exchanges that match the filter')
  .option('--without-bodies <kinds>', 'leave out the bodies of these kinds, e.g. image,font; repeatable', gather)
  .option('--blank <kinds>', 'blank the bodies of these kinds, their sizes kept; repeatable', gather)
  .option('--list', 'print what was replaced, and what was left though it looks suspicious')
  .action(async (file, out, options) => (await import('./commands/redact')).redact(file, out, options));

// A reader that closes early, as head does, has had enough: that is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? 0 : 2;
  } else {
    const message = error instanceof Error ? error.message : String(error);
    tell(`trazado: ${message.replaceAll('\n', ' ')}`);
    process.exitCode = 2;
  }
}
