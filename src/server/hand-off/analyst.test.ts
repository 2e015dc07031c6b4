import { statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { generateCapture } from '../../../bench/generate';
import { diagnoseFile } from '../capture-file';
import { newDataFolder } from '../testing/process';
import { Analyst } from './analyst';
import type { AnalystInput } from './analyst-protocol';

const folder = newDataFolder();
const inputOf = (name: string): AnalystInput => ({ path: join(folder, name), shown: name, damage: undefined });
const [large, small, broken] = [inputOf('large.har'), inputOf('small.har'), inputOf('broken.har')];
const analyst = new Analyst();

beforeAll(() => {
  generateCapture(large.path, 3_000_000);
  generateCapture(small.path, 50_000);
  writeFileSync(broken.path, `{"log":${' '.repeat(3_000_000)}}`);
});
afterAll(() => analyst.close());

describe('an analysis', () => {
  it.each([
    ['of a large file, in a thread of its own', large],
    ['of a small one', small],
  ])('%s, is what it is here', async (_, input) => {
    const { rows, overview, found } = diagnoseFile(input);
    expect(rows.length).toBeGreaterThan(1);
    const answers = await Promise.all([analyst.analyse(input), analyst.analyse(input)]);
    expect(answers).toEqual([
      { rows, overview, found },
      { rows, overview, found },
    ]);
  });

  it('that cannot be made is told to whoever waits for it, and the next one is made', async () => {
    expect(statSync(broken.path).size).toBeGreaterThan(2_000_000);
    await expect(analyst.analyse(broken)).rejects.toThrow('broken.har');
    expect((await analyst.analyse(large)).rows.length).toBe(diagnoseFile(large).rows.length);
  });
});
