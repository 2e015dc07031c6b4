import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  type Draft,
  draftFromExchange,
  findCarries,
  findTarget,
  maskSecrets,
  PRESETS,
  type Preset,
  type Rendering,
  type RenderOptions,
  renderScript,
  SCRIPT_TARGETS,
  type Sequence,
  type SequenceStep,
  stepOf,
  TARGETS,
  type Target,
  tellCarry,
  tellLeftOut,
  withFilesBeside,
  withoutAttempts,
} from '#core/convert';
import type { Exchange } from '#core/model';
import { formatPlural } from '#core/wording';
import { type Input, readExchanges } from '#server/capture-file';
import { inflateWithZlib } from '#server/inflate';
import { getExchange, UsageError, withInput } from '../input';
import { printExactly, tell } from '../output';
import { filteredIndexes } from '../where';

export interface ConvertOptions {
  readonly to: string;
  readonly preset: string;
  readonly mask?: true;
  readonly all?: true;
  readonly out?: string;
  readonly files?: string;
  readonly script?: true;
  readonly goOn?: true;
  readonly where?: string;
  readonly comments?: true;
  readonly headers?: string;
  readonly secretsFromEnv?: true;
  readonly timeLimit?: string;
  readonly redirects?: string;
  readonly proxy?: string;
  readonly ignoreCertificate?: true;
  readonly function?: true;
  readonly prints?: string;
}

const oneOf = <const T extends string>(option: string, value: string, known: readonly T[]): T => {
  const found = known.find((one) => one === value);
  if (found === undefined) throw new UsageError(`--${option} takes ${known.join(', ')}, not "${value}".`);
  return found;
};

function renderOptions(options: ConvertOptions, preset: Preset): RenderOptions {
  const timeLimitS = options.timeLimit === undefined ? undefined : Number(options.timeLimit);
  if (timeLimitS !== undefined && !(timeLimitS > 0)) throw new UsageError('--time-limit takes a number of seconds.');
  return {
    commentsLeftOut: options.comments === true,
    headers: options.headers === undefined ? 'map' : oneOf('headers', options.headers, ['map', 'calls']),
    secretsFromEnv: options.secretsFromEnv === true,
    timeLimitS,
    redirects:
      options.redirects === undefined
        ? undefined
        : oneOf<'follow' | 'stop'>('redirects', options.redirects, ['follow', 'stop']),
    proxy: options.proxy,
    ignoresCertificate: options.ignoreCertificate === true,
    idioms: preset === 'lean' && options.script !== true,
    asFunction: options.function === true,
    prints: options.prints === undefined ? 'body' : oneOf('prints', options.prints, ['body', 'status', 'file']),
  };
}

export async function convert(file: string, place: string | undefined, options: ConvertOptions): Promise<void> {
  const target = getTarget(options.to);
  const preset = getPreset(options.preset);
  const writing = renderOptions(options, preset);
  const render = (exchange: Exchange): Rendering => {
    const draft = draftFromExchange(exchange, preset);
    return target.render(options.mask === true ? maskSecrets(draft) : draft, writing);
  };
  if (options.script === true) {
    await withInput(file, (input) => convertToScript(input, target, preset, { ...options, place }, writing));
    return;
  }
  if (options.all === true) {
    if (options.out === undefined) throw new UsageError('--all needs --out DIR, the folder to write into.');
    const folder = options.out;
    refuseNumber(place, '--all');
    await withInput(file, (input) => convertAll(input, folder, target, render, options.where));
    return;
  }
  if (options.where !== undefined) throw new UsageError('--where goes with --all or --script.');
  if (options.goOn === true) throw new UsageError('--go-on goes with --script.');
  if (options.out !== undefined) throw new UsageError('--out goes with --all; --files writes one into a folder.');
  if (place === undefined) throw new UsageError("Name an exchange's number, or --all with --out DIR.");
  const exchange = await withInput(file, (input) => getExchange(input, place));
  if (options.files !== undefined) {
    writeBeside(
      options.files,
      exchange,
      target,
      options.mask === true ? maskSecrets : (draft) => draft,
      preset,
      writing,
    );
    return;
  }
  const { text, bytes, warnings } = render(exchange);
  for (const note of [...warnings, ...tellLeftOut(draftFromExchange(exchange, preset))]) tell(note);
  // Byte for byte: a message's payload has no line end of ours.
  printExactly(bytes ?? text);
}

export function getPreset(id: string): Preset {
  const preset = PRESETS.find((known) => known === id);
  if (preset !== undefined) return preset;
  throw new UsageError(`"${id}" is not a preset; use ${PRESETS.join(' or ')}.`);
}

function getTarget(id: string): Target {
  const target = findTarget(id);
  if (target !== undefined) return target;
  throw new UsageError(`"${id}" is not a target; use one of ${TARGETS.map((known) => known.id).join(', ')}.`);
}

/** The filtered exchanges as one script, told on stderr what is carried from answer to request. */
function convertToScript(
  input: Input,
  target: Target,
  preset: Preset,
  options: ConvertOptions & { readonly place: string | undefined },
  writing: RenderOptions,
): void {
  const script = SCRIPT_TARGETS.find((id) => id === target.id);
  if (script === undefined)
    throw new UsageError(`One script is written for ${SCRIPT_TARGETS.join(', ')}; for ${target.id} take --all.`);
  refuseNumber(options.place, '--script');
  const chosen = options.where === undefined ? undefined : filteredIndexes(input, options.where);
  const steps: SequenceStep[] = [];
  for (const exchange of readExchanges(input)) {
    if (chosen !== undefined && !chosen.has(exchange.index)) continue;
    steps.push(stepOf(exchange, preset, inflateWithZlib));
  }
  if (steps.length === 0) throw new UsageError('No exchange matches the filter: nothing to write.');
  const attempts = withoutAttempts(steps);
  if (attempts.steps.length === 0) throw new UsageError(`There is nothing to write: ${attempts.notes.join(' ')}`);
  for (const note of attempts.notes) tell(note);
  // What a response gives is taken from it and needs no mask: the script runs as far as what is masked allows.
  const found = findCarries(attempts.steps);
  const sequence = options.mask === true ? masked(found) : found;
  const { text, warnings } = renderScript(sequence, script, writing, { goesOn: options.goOn === true });
  for (const carry of sequence.carries) tell(tellCarry(carry));
  for (const warning of warnings) tell(warning);
  printExactly(text);
}

const masked = (sequence: Sequence): Sequence => ({
  ...sequence,
  steps: sequence.steps.map((step) => ({ ...step, draft: maskSecrets(step.draft) })),
});

/** The code of one exchange in a folder, with what it uploads beside it. */
function writeBeside(
  folder: string,
  exchange: Exchange,
  target: Target,
  change: (draft: Draft) => Draft,
  preset: Preset,
  writing: RenderOptions,
): void {
  const whole = change(draftFromExchange(exchange, preset));
  const { draft, files: uploads } = withFilesBeside(whole);
  const { text, bytes, warnings } = target.render(draft, writing);
  // A client that has no forms or reads no files has all of it in its code.
  const files = text === target.render(whole, writing).text ? [] : uploads;
  const name = `${exchange.index}.${target.extension}`;
  mkdirSync(folder, { recursive: true });
  for (const file of files) writeFileSync(join(folder, file.name), file.bytes);
  writeFileSync(join(folder, name), bytes ?? text);
  for (const warning of [...warnings, ...tellLeftOut(draft)]) tell(warning);
  const others = files.length === 0 ? '' : `, with ${files.map((file) => file.name).join(', ')} beside it`;
  tell(`${name} written to ${folder}${others}. Run it in that folder.`);
}

/** What takes many takes no one: a number beside it would be passed over without a word. */
function refuseNumber(place: string | undefined, option: string): void {
  if (place !== undefined)
    throw new UsageError(`${option} takes every exchange, or those of --where: leave the number ${place} out.`);
}

function convertAll(
  input: Input,
  folder: string,
  target: Target,
  render: (exchange: Exchange) => Rendering,
  where: string | undefined,
): void {
  const chosen = where === undefined ? undefined : filteredIndexes(input, where);
  if (chosen?.size === 0) throw new UsageError('No exchange matches the filter: nothing to write.');
  mkdirSync(folder, { recursive: true });
  let count = 0;
  for (const exchange of readExchanges(input)) {
    if (chosen !== undefined && !chosen.has(exchange.index)) continue;
    const { text, bytes, warnings } = render(exchange);
    for (const warning of warnings) tell(`#${exchange.index}: ${warning}`);
    writeFileSync(join(folder, `${exchange.index}.${target.extension}`), bytes ?? text);
    count++;
  }
  tell(`${formatPlural(count, 'file')} written to ${folder}.`);
}
