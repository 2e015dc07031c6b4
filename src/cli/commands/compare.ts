import {
  type ComparedLoad,
  compareGroup,
  compareSides,
  comparisonJson,
  comparisonLines,
  groupJson,
  groupLines,
  type HostMap,
  HostMapError,
  LEAST_OF_GROUP,
  readHostMap,
  unmetHosts,
} from '#core/compare';
import { foretellFor, type ReadLoad } from '#server/load-of-file';
import { UsageError } from '../input';
import { readLoad } from '../loads';
import { printJson, printLines, tell } from '../output';

interface CompareOptions {
  readonly sides?: string;
  readonly map?: readonly string[];
  readonly json?: true;
}

/** Compares loads: one side against the other, or one group by itself. */
export async function compare(files: readonly string[], options: CompareOptions): Promise<void> {
  const map = readMap(options.map ?? []);
  const sides = readSides(options.sides, files.length);
  const loads: ReadLoad[] = [];
  for (const file of files) loads.push(await readLoad(file));
  for (const host of unmetHosts(
    map,
    loads.flatMap(({ load }) => load.rows.map(({ url }) => url)),
  ))
    tell(`--map: no exchange goes to ${host}.`);
  if (sides === undefined) {
    printGroup(
      loads.map(({ load }) => load),
      map,
      options,
    );
    return;
  }
  const [ownA, ownB] = [loads.slice(0, sides[0]), loads.slice(sides[0])];
  const [firstA, firstB] = [ownA[0], ownB[0]];
  if (firstA === undefined || firstB === undefined) throw new UsageError('Each side needs a file.');
  const withForecast = (own: readonly ReadLoad[], other: ReadLoad): [ComparedLoad, ...ComparedLoad[]] =>
    own.map((one) => foretellFor(one, other)) as [ComparedLoad, ...ComparedLoad[]];
  const [a, b] = [withForecast(ownA, firstB), withForecast(ownB, firstA)];
  const compared = compareSides(a, b, { map });
  const printed = { a, b, compared, isSame: files[compared.a.drawn] === files[sides[0] + compared.b.drawn] };
  if (options.json === true) printJson(comparisonJson(printed));
  else printLines(comparisonLines(printed));
}

function printGroup(loads: readonly ComparedLoad[], map: HostMap, { json }: CompareOptions): void {
  const group = compareGroup(loads, map);
  if (group === undefined)
    throw new UsageError(
      `What slow loads share can be told of ${LEAST_OF_GROUP} loads and more whose exchanges have starts; give --sides to compare two sides.`,
    );
  if (json === true) printJson(groupJson(loads, group));
  else printLines(groupLines(loads, group));
}

/** @throws UsageError for what names no hosts */
export function readMap(pairs: readonly string[]): HostMap {
  try {
    return readHostMap(pairs);
  } catch (error) {
    throw error instanceof HostMapError ? new UsageError(error.message) : error;
  }
}

/** How many files are on each side; undefined where all are one group. */
function readSides(text: string | undefined, files: number): readonly [number, number] | undefined {
  if (text === undefined) {
    if (files === 1) throw new UsageError('One file alone cannot be compared: name a second one.');
    return files === 2 ? [1, 1] : undefined;
  }
  const match = /^([1-9]\d{0,4}),([1-9]\d{0,4})$/.exec(text.trim());
  const [a, b] = [Number(match?.[1]), Number(match?.[2])];
  if (match === null) throw new UsageError(`"${text}" is not two numbers of files; write e.g. --sides 2,3.`);
  if (a + b !== files) throw new UsageError(`--sides ${a},${b} are ${a + b} files, and ${files} were given.`);
  return [a, b];
}
