import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  draftFromExchange,
  findTarget,
  maskCredentials,
  PRESETS,
  type Preset,
  type Rendering,
  TARGETS,
  type Target,
} from '#core/convert';
import type { Exchange } from '#core/model';
import { formatPlural } from '#core/wording';
import { getExchange, readExchanges, UsageError, withInput } from '../input';
import { print, tell } from '../output';

export interface ConvertOptions {
  readonly to: string;
  readonly preset: string;
  readonly mask?: true;
  readonly all?: true;
  readonly out?: string;
}

export function convert(file: string, place: string | undefined, options: ConvertOptions): void {
  const target = getTarget(options.to);
  const preset = PRESETS.find((known) => known === options.preset);
  if (preset === undefined)
    throw new UsageError(`"${options.preset}" is no preset; there are ${PRESETS.join(' and ')}.`);
  const render = (exchange: Exchange): Rendering => renderExchange(exchange, target, preset, options.mask === true);
  if (options.all === true) {
    if (options.out === undefined) throw new UsageError('--all needs --out DIR, the folder to write into.');
    const folder = options.out;
    withInput(file, (path) => convertAll(path, folder, target, render));
    return;
  }
  if (place === undefined) throw new UsageError("Name an exchange's number, or --all with --out DIR.");
  const { text, warnings } = render(withInput(file, (path) => getExchange(path, place)));
  for (const warning of warnings) tell(warning);
  print(text);
}

function getTarget(id: string): Target {
  const target = findTarget(id);
  if (target !== undefined) return target;
  throw new UsageError(
    `"${id}" is no target; "trazado targets" lists them: ${TARGETS.map((known) => known.id).join(', ')}.`,
  );
}

function renderExchange(exchange: Exchange, target: Target, preset: Preset, masks: boolean): Rendering {
  const draft = draftFromExchange(exchange, preset);
  return target.render(masks ? maskCredentials(draft) : draft);
}

function convertAll(path: string, folder: string, target: Target, render: (exchange: Exchange) => Rendering): void {
  mkdirSync(folder, { recursive: true });
  let count = 0;
  for (const exchange of readExchanges(path)) {
    const { text, warnings } = render(exchange);
    for (const warning of warnings) tell(`#${exchange.index}: ${warning}`);
    writeFileSync(join(folder, `${exchange.index}.${target.extension}`), text);
    count++;
  }
  tell(`${formatPlural(count, 'file')} written to ${folder}.`);
}
