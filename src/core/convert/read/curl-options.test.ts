import { execFileSync } from 'node:child_process';
import { describe, expect, it } from 'vitest';
import { describeNeeding } from '../testing/tools';
import { readArguments } from './curl-options';

interface Told {
  readonly short: string | undefined;
  readonly long: string;
  readonly isValued: boolean;
}

/** The options that the installed curl tells of itself: " -d, --data <data>   HTTP POST data". */
function toldOptions(): Told[] {
  const help = execFileSync('curl', ['--help', 'all']).toString();
  return [...help.matchAll(/^ *(?:-(.), )?--([\w.-]+)( [<[])?/gm)].map(([, short, long = '', value]) => ({
    short,
    long,
    isValued: value !== undefined,
  }));
}

const itemsOf = (...args: string[]) => {
  const { items, problems } = readArguments(args);
  return { items: items.map((item) => ('address' in item ? item.address : [item.name, item.value])), problems };
};

describeNeeding(['curl'])('the options of the installed curl', () => {
  it('are known, each with or without a value, by its long and by its short name', () => {
    const told = toldOptions();
    expect(told.length).toBeGreaterThan(200);
    const wrong = told.flatMap(({ short, long, isValued }) => {
      const wanted = isValued ? [[long, 'x'], 'y'] : [[long, undefined], 'x', 'y'];
      const spellings = [`--${long}`, ...(short === undefined ? [] : [`-${short}`])];
      return spellings.flatMap((spelling) => {
        const { items, problems } = itemsOf(spelling, 'x', 'y');
        // What curl prints as "--no-x" is on by itself, and is turned off by that.
        const isSame = JSON.stringify(items) === JSON.stringify(wanted) || long.startsWith('no-');
        return isSame && problems.length === 0 ? [] : [`${spelling}: ${JSON.stringify(items)} ${problems.join(' ')}`];
      });
    });
    expect(wrong).toEqual([]);
  });
});

describe('arguments of curl', () => {
  it.each([
    [
      ['-sSLd', 'a=1', 'u'],
      [['silent', undefined], ['show-error', undefined], ['location', undefined], ['data', 'a=1'], 'u'],
    ],
    [
      ['-da=1', '-XPUT'],
      [
        ['data', 'a=1'],
        ['request', 'PUT'],
      ],
    ],
    [['--dat'], []],
    [['--comp'], []],
    [
      ['--compressed', '--no-keepalive', '-'],
      [['compressed', undefined], ['no-keepalive', undefined], '-'],
    ],
    [['--expand-data', '{{x}}'], [['data', '{{x}}']]],
    [['--insec'], [['insecure', undefined]]],
  ])('%j are taken apart', (args, items) => expect(itemsOf(...args).items).toEqual(items));

  it.each([
    [['--nonsense'], 'curl knows no option --nonsense.'],
    [['-?'], 'curl knows no option -?.'],
    [['--data'], 'A value lacks behind --data.'],
    [['-d'], 'A value lacks behind -d.'],
    [['--dat'], 'curl knows no option --dat.'],
  ])('%j are told of where they make no sense', (args, problem) =>
    expect(itemsOf(...args).problems).toContain(problem),
  );
});
