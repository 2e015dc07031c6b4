import type { Target, TargetId } from '../target';
import { TARGET_IDS } from '../target';
import { autohotkey } from './autohotkey';
import { c } from './c';
import { csharp } from './csharp';
import { curlCmd } from './curl-cmd';
import { curlConfig } from './curl-config';
import { curlPs } from './curl-ps';
import { curlSh } from './curl-sh';
import { dart } from './dart';
import { elixir } from './elixir';
import { go } from './go';
import { http } from './http';
import { httpie } from './httpie';
import { java } from './java';
import { jsFetch } from './js-fetch';
import { jsXhr } from './js-xhr';
import { kotlinOkhttp } from './kotlin-okhttp';
import { nodeAxios } from './node-axios';
import { nodeFetch } from './node-fetch';
import { nodeHttp } from './node-http';
import { nodeUndici } from './node-undici';
import { perl } from './perl';
import { phpCurl } from './php-curl';
import { powerM } from './power-m';
import { powershell } from './powershell';
import { pythonAiohttp } from './python-aiohttp';
import { pythonHttpx } from './python-httpx';
import { pythonRequests } from './python-requests';
import { pythonUrllib } from './python-urllib';
import { rHttr2 } from './r-httr2';
import { ruby } from './ruby';
import { rustReqwest } from './rust-reqwest';
import { swift } from './swift';
import { vba } from './vba';
import { wget } from './wget';

/** Every target by its id. To add one: its id in target.ts, its file here, its line in this list. */
const BY_ID = {
  'curl-sh': curlSh,
  'curl-cmd': curlCmd,
  'curl-ps': curlPs,
  'curl-config': curlConfig,
  wget,
  http,
  httpie,
  'js-fetch': jsFetch,
  'js-xhr': jsXhr,
  'node-fetch': nodeFetch,
  'node-undici': nodeUndici,
  'node-http': nodeHttp,
  'node-axios': nodeAxios,
  'python-requests': pythonRequests,
  'python-httpx': pythonHttpx,
  'python-urllib': pythonUrllib,
  'python-aiohttp': pythonAiohttp,
  c,
  go,
  java,
  csharp,
  'php-curl': phpCurl,
  ruby,
  perl,
  powershell,
  'rust-reqwest': rustReqwest,
  'kotlin-okhttp': kotlinOkhttp,
  swift,
  dart,
  'r-httr2': rHttr2,
  elixir,
  vba,
  'power-m': powerM,
  autohotkey,
} satisfies Record<TargetId, Target>;

export const TARGETS: readonly Target[] = TARGET_IDS.map((id) => BY_ID[id]);

/** The target of an id as somebody typed it; undefined where there is none. */
export const findTarget = (id: string): Target | undefined => TARGETS.find((target) => target.id === id);
