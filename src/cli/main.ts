import { Command, CommanderError } from 'commander';
import { tell, visible } from './output';

// Commands are loaded when they run: help answers at once.

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
  .description('runs the app, with the files given on its shelf')
  .argument('[files...]', 'HAR files to take in first')
  .option('--port <port>', 'port to listen on; without it the first free one from 4680')
  .option('--host <host>', 'address to listen on', '127.0.0.1')
  .option('--data <dir>', 'folder that keeps the captures')
  .option('--open', 'opens the app in the browser')
  .action(async (files, options) => (await import('./commands/serve')).serve(files, options));

program
  .command('demo')
  .description('runs the app with the demo captures and the stand-in site')
  .option('--port <port>', 'port to listen on')
  .option('--open', 'opens the app in the browser')
  .action(async (options) => (await import('./commands/demo')).demo(options));

program
  .command('summary')
  .description('recorder, pages with milestones, counts, bytes, cached share, failed, condition')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--json', 'prints JSON')
  .action(async (file, options) => (await import('./commands/summary')).summary(file, options));

program
  .command('explain')
  .description('what held a page up: its route, where the time went, what was found')
  .argument('<file>', 'HAR file, or - for standard input')
  .option('--page <id>', 'the page; without it the first one')
  .option('--to <goal>', 'where the route leads: loaded, dom-ready, the name of a milestone, or an exchange, as #12')
  .option('--json', 'as JSON')
  .action(async (file, options) => (await import('./commands/explain')).explain(file, options));

// An option that begins with "no-" is true until it is given.
const gather = (value: string, before: readonly string[] | true | undefined): readonly string[] => [
  ...(Array.isArray(before) ? (before as string[]) : []),
  value,
];

program
  .command('check')
  .description('holds a capture against budgets, for continuous integration: exits with 1 where something is over')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--max <name=value>', 'a budget, as loaded=3s, wire=1.5MB or exchanges=80; may be repeated', gather)
  .option('--no-finding <rule>', 'a rule that must find nothing; may be repeated', gather)
  .option('--json', 'prints JSON')
  .option('--junit', 'prints JUnit XML')
  .action(async (file, options) => (await import('./commands/check')).check(file, options));

program
  .command('list')
  .description('the exchanges, one a line')
  .argument('<file>', 'a HAR file, or - for standard input')
  .option('--where <sift>', 'only those that a sift lets through')
  .option('--page <id>', 'only those of a page')
  .option('--json', 'prints JSON')
  .action(async (file, options) => (await import('./commands/list')).list(file, options));

program
  .command('show')
  .description('one exchange in full')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<n>', "the exchange's number, its place in log.entries from 0")
  .option('--json', 'prints JSON')
  .option('--body', "writes its decoded body's bytes")
  .action(async (file, n, options) => (await import('./commands/show')).show(file, n, options));

program
  .command('convert')
  .description('a captured request as a command or code')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('[n]', "the exchange's number, its place in log.entries from 0")
  .requiredOption('--to <target>', 'what to turn it into; "trazado targets" lists them')
  .option('--preset <preset>', 'faithful, or lean: without what only browsers add', 'faithful')
  .option('--mask', 'replaces credentials by placeholders')
  .option('--all', 'converts every exchange')
  .option('--out <dir>', 'with --all: writes DIR/N.EXT')
  .option('--script', 'writes all requests as one script, for curl-sh, node-fetch and python-requests')
  .option('--where <sift>', 'with --script: only the exchanges that a sift lets through')
  .option('--comments', 'left-out headers as comments')
  .option('--headers <how>', 'map, or calls: one for each header')
  .option('--secrets-from-env', 'reads credentials from the environment')
  .option('--time-limit <seconds>', 'how long to wait for the answer')
  .option('--redirects <what>', 'follow or stop')
  .option('--proxy <address>', 'goes through a proxy')
  .option('--ignore-certificate', 'takes any certificate')
  .option('--function', 'the code as a function')
  .option('--prints <what>', 'body, status or file')
  .action(async (file, n, options) => (await import('./commands/convert')).convert(file, n, options));

program
  .command('parse')
  .description('requests from standard input: curl commands, HTTP messages, calls of fetch')
  .option('--from <kind>', 'curl-sh, curl-cmd, curl-ps, http or fetch; guessed where it is absent')
  .action(async (options) => (await import('./commands/parse')).parse(options));

program
  .command('find')
  .description('where a text stands: in addresses, headers, payloads, bodies, messages, encoded or not')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<text>', 'what to look for')
  .option('--regex', 'the text is a regular expression')
  .option('--case', 'matches upper and lower case as given')
  .option('--word', 'whole words only')
  .option('--json', 'prints JSON')
  .action(async (file, text, options) => (await import('./commands/find')).find(file, text, options));

program
  .command('targets')
  .description('what requests can be turned into')
  .option('--json', 'prints JSON')
  .action(async (options) => (await import('./commands/targets')).targets(options));

program
  .command('save')
  .description('reads a capture and writes it again')
  .argument('<file>', 'a HAR file, or - for standard input')
  .argument('<out>', 'file to write, or - for standard output')
  .action(async (file, out) => (await import('./commands/save')).save(file, out));

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
