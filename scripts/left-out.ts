import type { Reporter, TestModule } from 'vitest/node';
import { LEFT_OUT, TOOLS, type ToolName } from '../src/core/convert/testing/tools';

/** Says at the end of a run which tests were left out for want of what they run, and how to install that. */
export default class LeftOutReporter implements Reporter {
  onTestRunEnd(modules: readonly TestModule[]): void {
    const lacking = new Map<string, number>();
    for (const module of modules) {
      for (const test of module.children.allTests('skipped')) {
        for (const name of LEFT_OUT.exec(test.name)?.[1]?.split(', ') ?? []) {
          lacking.set(name, (lacking.get(name) ?? 0) + 1);
        }
      }
    }
    if (lacking.size === 0) return;
    const names = [...lacking.keys()];
    const packages = [...new Set(names.flatMap((name) => TOOLS[name as ToolName]?.from ?? []))].sort();
    const lines = [
      'Tests were left out, because what they run is not on this machine:',
      ...names.map((name) => `  ${name}: ${lacking.get(name)} left out`),
      `To have them all (Debian): apt-get install ${packages.join(' ')}`,
      '',
    ];
    process.stdout.write(`\n${lines.join('\n')}\n`);
  }
}
