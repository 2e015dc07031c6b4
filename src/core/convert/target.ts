import type { Draft } from './draft';
import type { RenderOptions } from './options';

/** Ids of the targets, in display order. Each has its file in targets/ and its place in the list there. */
export const TARGET_IDS = [
  'curl-sh',
  'curl-cmd',
  'curl-ps',
  'curl-config',
  'wget',
  'http',
  'httpie',
  'js-fetch',
  'js-xhr',
  'node-fetch',
  'node-undici',
  'node-http',
  'node-axios',
  'python-requests',
  'python-httpx',
  'python-urllib',
  'python-aiohttp',
  'c',
  'go',
  'java',
  'csharp',
  'php-curl',
  'ruby',
  'perl',
  'powershell',
  'rust-reqwest',
  'kotlin-okhttp',
  'swift',
  'dart',
  'r-httr2',
  'elixir',
  'vba',
  'power-m',
  'autohotkey',
] as const;
export type TargetId = (typeof TARGET_IDS)[number];

/** Something a draft can be turned into: a command or code. */
export interface Target {
  readonly id: TargetId;
  readonly label: string;
  readonly language: string;
  /** Without the dot. */
  readonly extension: string;
  readonly render: (draft: Draft, options?: RenderOptions) => Rendering;
}

/** Text that runs, and what it cannot do that the draft asks for. Warnings are whole sentences. */
export interface Rendering {
  readonly text: string;
  /** What is written to a file or to standard output in place of the text, where that cannot be text. */
  readonly bytes?: Uint8Array;
  readonly warnings: readonly string[];
}

/** The one route for "this target cannot express that": a warning that says what is missing and what happens instead. */
export const unsupported = (what: string, instead: string): string => `${what} is not possible here: ${instead}.`;
