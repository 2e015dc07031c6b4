import type { TargetId } from '../target';

/** The targets in which several requests are one script; the others are written as a folder of files. */
export const SCRIPT_TARGETS = [
  'curl-sh',
  'node-fetch',
  'python-requests',
  'php-curl',
  'go',
  'powershell',
] as const satisfies readonly TargetId[];
export type ScriptTarget = (typeof SCRIPT_TARGETS)[number];
