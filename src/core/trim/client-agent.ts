import type { TargetId } from '../convert';

/** The User-Agent that the code of a target sends where the draft says none; versions differ from machine to machine. */
const AGENTS: Readonly<Record<TargetId, string | 'browser' | undefined>> = {
  // curl is told to send none.
  'curl-sh': undefined,
  'curl-cmd': undefined,
  'curl-ps': undefined,
  'curl-config': undefined,
  wget: 'Wget/1.25.0',
  http: undefined,
  httpie: 'HTTPie/3.2.4',
  'js-fetch': 'browser',
  'js-xhr': 'browser',
  'node-fetch': 'node',
  'node-undici': undefined,
  'node-http': undefined,
  'node-axios': 'axios/1.7.9',
  'python-requests': 'python-requests/2.32.3',
  'python-httpx': 'python-httpx/0.28.1',
  'python-urllib': 'Python-urllib/3.12',
  'python-aiohttp': 'Python/3.12 aiohttp/3.11.11',
  c: undefined,
  go: 'Go-http-client/1.1',
  java: 'Java-http-client/21.0.5',
  csharp: undefined,
  'php-curl': undefined,
  ruby: 'Ruby',
  perl: 'HTTP-Tiny/0.088',
  powershell: 'Mozilla/5.0 (Windows NT 10.0; Microsoft Windows 10.0.22631; en-GB) PowerShell/7.4.6',
  'rust-reqwest': undefined,
  'kotlin-okhttp': 'okhttp/4.12.0',
  swift: 'swift (unknown version) CFNetwork/1568.200.51 Darwin/24.1.0',
  dart: 'Dart/3.5 (dart:io)',
  'r-httr2': 'httr2/1.0.7 r-curl/6.0.1 libcurl/8.5.0',
  elixir: undefined,
  vba: 'Mozilla/4.0 (compatible; Win32; WinHttp.WinHttpRequest.5)',
  'power-m': 'Microsoft.Data.Mashup (https://go.microsoft.com/fwlink/?LinkID=304225)',
  autohotkey: 'Mozilla/4.0 (compatible; Win32; WinHttp.WinHttpRequest.5)',
};

/** What a target's client sends as User-Agent by itself; browsers send theirs, whatever is left out. @param own the draft's */
export function clientAgentOf(target: TargetId, own: string | undefined): string | undefined {
  const agent = AGENTS[target];
  return agent === 'browser' ? own : agent;
}
