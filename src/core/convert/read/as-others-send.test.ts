import { execFile, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Arrived, Door, Echo } from '../testing/echo';
import { startEcho } from '../testing/echo';
import { describeNeeding, PYTHON } from '../testing/tools';
import { arrivedAs, wireOf } from '../testing/wire';
import { guessSource, readBack, type SourceId } from './index';

// What is read from a command or a script is what the program that it is written for sends. URL and HOST stand for the server.

const run = promisify(execFile);

let echo: Echo;
const folder = mkdtempSync(join(tmpdir(), 'trazado-others-'));
beforeAll(async () => {
  echo = await startEcho();
  for (const name of ['empty.json', 'empty.dat', 'empty.csv']) writeFileSync(join(folder, name), '');
});
afterAll(async () => {
  await echo.close();
  rmSync(folder, { recursive: true });
});

const addressed = (written: string, { port }: Door): string =>
  written.replaceAll(/\bURL(?=['"`/?\s#]|$)/g, `http://127.0.0.1:${port}`).replaceAll('HOST', `127.0.0.1:${port}`);

/** Holds what is read of each text against what came in at its door. */
function expectSame(written: string, sent: readonly Arrived[], source: SourceId, door: Door): void {
  const text = addressed(written, door);
  const { drafts } = readBack(text, source);
  const read = drafts.map(arrivedAs);
  expect(read.map((one) => wireOf(one, one))).toEqual(sent.map((one, at) => wireOf(one, read[at] ?? one)));
  expect(sent).not.toEqual([]);
  expect(guessSource(text)).toBe(source);
}

const WGET = [
  `wget URL/a`,
  `wget URL`,
  `wget --post-data 'a=1&b=ü' URL/a`,
  `wget --method put --body-data=x URL/a`,
  `wget --header='A: b' --header '' --header 'C:d' URL/a`,
  `wget --header='A: 1' --header 'a: 2' URL/a`,
  `wget --header='Content-Type: application/json' --post-data='{}' URL/a`,
  `wget --header='Host: b.example' --header='B:' URL/a`,
  `wget -U '' URL/a`,
  `wget --header='User-Agent: y' -U x URL/a`,
  `wget --auth-no-challenge --user=u --password=p URL/a`,
  `wget --auth-no-challenge http://u%40x:p@HOST/a`,
  `wget --auth-no-challenge http://u@HOST/a`,
  `wget --auth-no-challenge --user=a URL/a`,
  `wget --auth-no-challenge --user=a --password=b http://u:p@HOST/a`,
  `wget --auth-no-challenge --user=a --password=b --header='Authorization: x' URL/a`,
  `wget --spider URL/a`,
  `wget 'URL/a b/../c|{d}^ü?x=[1]&y="<z>\\'`,
  `wget 'URL/%7Eb%2f%zz?x=%41%2f%'`,
  `wget --no-cache URL/a`,
  `wget -nv -t 1 -T 5 -O/dev/null HOST/a`,
  `wget URL/a URL/b --post-d 'a=1'`,
  `wget --head 'A: b' --user-ag=way --refer=x URL/a`,
  `wget --start-pos=10 URL/a`,
  `wget -e 'header = A: b' -e robots=off -e cache=off -e user_agent=x URL/a`,
  `wget -4qU way -- URL/a`,
  `wget --no-proxy -Y off --timeout 3 --limit-rate 1m -P x -nd URL/a`,
];

describeNeeding(['sh', 'wget'])('a command of wget is read as what wget sends', () => {
  it.each(WGET)('%s', async (written) => {
    const door = await echo.openDoor();
    const command = addressed(written, door).replace(/^wget/, 'wget --tries=1 -qO /dev/null');
    await run('sh', ['-c', command], { cwd: folder, env: { PATH: process.env['PATH'], LC_ALL: 'C.UTF-8' } });
    expectSame(written, door.take(), 'curl-sh', door);
  });

  it.each([
    [
      'wget --user=u --password=p http://a.example/',
      'wget sends the user and the password only when the server asks for them; here they are sent at once.',
    ],
    [
      'wget -r -l1 http://a.example/',
      'wget would go on to what the response links to; only the first request is read.',
    ],
    ['wget -i list.txt http://a.example/', 'More addresses would be read from the file "list.txt", which is not here.'],
  ])('%s says what it leaves out', (command, note) =>
    expect(readBack(command, 'curl-sh').drafts.flatMap(({ notes }) => notes)).toEqual([note]),
  );
});

const HTTP = [
  `http URL/a`,
  `http URL?x=1 y==`,
  `http URL/a x=1 y:=2 'z= ü "\\/😀'`,
  `http URL/a 'x:=12345678901234567890' 'y:={"b":1.50, "a":[1,-0,true,null,"ü"]}'`,
  `http URL/a x:=1e16 y:=1e-5 z:=0.0001 w:=-0.0 v:=1.0 u:=123456789012345.678 t:=1E3`,
  `http URL/a '2=b' '1=a' 2=c`,
  `http URL/a 'user[name]=ana' 'user[age]:=3' 'user[tags][]=a' 'user[tags][]=b'`,
  `http URL/a 'a[2][b]=z' 'a[0]=x' 'c[][d]=1' 'c[][d]=2'`,
  `http URL/a '[]=1' '[]:=2'`,
  `http URL/a 'name=1' '=x'`,
  `http URL/a q==1 r==2 q==3 A:1 B:2 A:3`,
  `http -f URL/a x=1 file@empty.json x=2 'file@empty.dat'`,
  `D='a b"ü' E=c; http URL/a "q==$D" r==$E "s=$D" t=$E "u:=\\"$E\\"" X-A:$E`,
  `export D='a b"ü' E=c F; http -f URL/a$E/d "s=$D" t=$E`,
  `http URL/a 'a[\\1]=2' '\\1=x' '7=y' 'b[+2]=z' 'x\\[y\\]=1'`,
  `http -fv URL/a x=1 'y=a b&c~*ü' x=2 'a[b]=3'`,
  `http -vf URL/a a:=true b:=1.50 'c:="s ü"' d:=false`,
  `http -j URL/a`,
  `http -f URL/a`,
  `http --form PUT URL/a x=`,
  `http -f URL/a x=1 file@empty.json 'g@empty.dat' 'h@empty.csv;type=text/x' y=2`,
  `http --multipart URL/a x=1 'y=ü'`,
  `http URL/a @empty.json`,
  `http URL/a 'q==a b+c/d' 'r==ü~*'`,
  `http URL/a X-A:1 X-B: 'X-C;' 'X-D:  b  c '`,
  `http URL/a Content-Type: x=1`,
  `http URL/a Content-Type:text/x x=1`,
  `http PATCH URL/a 'a\\=b=c\\=d' 'e\\:f=g' 'h\\@i=j' 'k\\\\=l'`,
  `http URL/a 'a=b:c==d@e' 'f=g'`,
  `http -a u:p URL/a Authorization:x`,
  `http -au:p http://c:d@HOST/a`,
  `http --auth-t bearer --auth tok URL/a`,
  `http -A digest -a u:p URL/a`,
  `http http://u%40x:p@HOST/a`,
  `http --raw 'x=1' -f URL/a`,
  `http --raw='{"x": 1}' URL/a`,
  `http ://HOST/a`,
  `http HOST/a b==1`,
  `http 'URL/ü b/../c?ñ=[1]{2}|^"<>\\'#part`,
  `http --path-as-is 'URL/a/../b'`,
  `http 'URL/%7Eb%2f%zz?x=%41%2f'`,
  `http 'URL/%7Eb%2f?x=%41%2f%'`,
  `http --print=hb -p HB --timeout 3 --style auto --max-redirects 2 URL/a x=1`,
  `http delete URL/a`,
  `http GET URL/a x=1`,
];

/** Runs commands, their words parted by NUL and they by two, one after the other: the program is loaded once. */
const HTTP_RUNNER = `
import os, sys
from httpie.core import main
for command in sys.stdin.buffer.read().decode().split('\\0\\0')[:-1]:
    pid = os.fork()
    if pid == 0:
        args = ['http', '--ignore-stdin'] + command.split('\\0')[1:]
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        sys.stdout = open(os.devnull, 'w')
        os._exit(int(main(args)))
    os.waitpid(pid, 0)
`;

describeNeeding(['sh', 'python3 with the http command'])('a command of http is read as what it sends', () => {
  const sent = new Map<string, { readonly door: Door; readonly arrived: readonly Arrived[] }>();
  beforeAll(async () => {
    const doors = await Promise.all(HTTP.map(async (written) => ({ written, door: await echo.openDoor() })));
    const script = doors.map(({ written, door }) => addressed(written, door)).join('\n');
    const { stdout } = await run('sh', ['-c', `http() { printf '%s\\0' http "$@"; printf '\\0'; }\n${script}`]);
    const runner = spawn(PYTHON, ['-c', HTTP_RUNNER], {
      cwd: folder,
      env: { PATH: process.env['PATH'], LC_ALL: 'C.UTF-8', HOME: folder, no_proxy: '*' },
      stdio: ['pipe', 'ignore', 'inherit'],
    });
    runner.stdin.end(stdout);
    await new Promise((done) => runner.on('exit', done));
    for (const { written, door } of doors) sent.set(written, { door, arrived: door.take() });
  });

  it.each(HTTP)('%s', (written) => {
    const one = sent.get(written);
    if (one === undefined) throw new Error('it was not run');
    expectSame(written, one.arrived, 'curl-sh', one.door);
  });

  it.each([
    [
      'http http://a.example/ x=@beds.json',
      'The value of x would be read from the file "beds.json", which is not here.',
    ],
    ['http http://a.example/ A:@beds.txt', 'The value of A would be read from the file "beds.txt", which is not here.'],
    ['http http://a.example/ x:=01', 'x is not JSON, and is left out.'],
    ['http http://a.example/ a=1 a[b]=2', 'a[b] does not fit what the other items build, and is left out.'],
    ['http http://a.example/ a[b=2', 'a[b does not fit what the other items build, and is left out.'],
    ['http http://a.example/ a[-1]=2', 'a[-1] does not fit what the other items build, and is left out.'],
    ['http -f http://a.example/ a:=[1]', 'a is [1], which a form cannot hold; it is left out.'],
    ["http http://a.example/ 'a\\:b'", '"a\\:b" is no item of a request, and is left out.'],
    ['http -a u http://a.example/', 'The password of u would be asked for; it is empty here.'],
    ['http -x http://a.example/ a=1', '--compress is left out: the payload is sent as it is.'],
    [
      'http --session=ana http://a.example/',
      'Headers and cookies of the session "ana" would be sent too; they are not here.',
    ],
  ])('%s says what it leaves out', (command, note) =>
    expect(readBack(command, 'curl-sh').drafts.flatMap(({ notes }) => notes)).toEqual([note]),
  );
});

const FETCH = [
  'fetch("URL/a", {method: "POST", body: new URLSearchParams({a: "1 2", b: "ü~*", c: [1, 2]})})',
  'fetch("URL/a", {method: "POST", body: JSON.stringify({a: 1, b: [1.50, "ü\\n"], c: undefined, d: [undefined, NaN], e: -0})})',
  'fetch("URL/a", {method: "POST", body: JSON.stringify({2: "b", 1: "a"}, null, 2)})',
  'fetch("URL/a", {method: "POST", body: JSON.stringify([1, ...[2, 3], !0, !1, void 0, -4, 1e3])})',
  'fetch("URL/a", {headers: new Headers({A: "1", "b-c": " x "})})',
  'fetch("URL/a", {headers: [["A", "1"], ["a", "2"]]})',
  'fetch("URL/a", {headers: {A: 1, B: true, C: null, D: undefined, E: ""}})',
  'const h = new Headers({C: "0"}); h.append("A", "1"); h.append("A", "2"); h.set("b", "3"); h.delete("c"); fetch("URL/a", {headers: h})',
  'const r = new Request("URL/a", {method: "PUT", body: "x", headers: {A: "1"}}); fetch(r)',
  'fetch(new Request("URL/a", {method: "PUT", body: "x"}), {method: "post", body: "y"})',
  'fetch(new URL("/b?x=1", "URL/a"))',
  'const u = new URL("URL/a?z=1%20x&y"); u.searchParams.append("q", "a b"); fetch(u.toString())',
  'const u = new URL("URL/a?z=1&q=2&q=3"); u.searchParams.set("q", "4"); u.searchParams.delete("z"); fetch(u.href)',
  'const u = new URL("URL/a?z=1"); u.search = "?k=v"; u.pathname = "/b"; u.hash = "x"; fetch(u)',
  'const u = new URL("http://b.example:1/a"); u.host = "HOST"; u.protocol = "http:"; fetch(u)',
  'const id = 5, day = "a b/ü"; fetch(`URL/a/${id}?day=${encodeURIComponent(day)}&n=${1 + 2}`)',
  'const base = "URL"; let path = base + "/a"; path += "?x=1"; fetch(path + "&y=" + 2)',
  'let o = {method: "POST", headers: {}}; o.headers["X-A"] = "1"; o.headers.B = "2"; o["body"] = "x"; fetch("URL/a", o)',
  'const method = "PUT", body = "x", headers = {A: "1"}; fetch("URL/a", {method, body, headers: {...headers, B: "2"}})',
  'const k = "X-A"; fetch("URL/a", {headers: {[k]: "1", ["X-" + "B"]: "2"}})',
  'const cfg = {base: "URL", opts: {headers: {A: "1"}}}; fetch(cfg.base + "/a", cfg["opts"])',
  '{ const body = "x"; fetch("URL/a", {method: "POST", body}) } { const body = "y"; fetch("URL/b", {method: "POST", body}) }',
  'const f = new FormData(); f.append("a", "1"); f.append("b", 2); f.append("a", "3"); f.set("a", "4"); f.set("c", true); f.delete("b"); fetch("URL/a", {method: "POST", body: f})',
  'const f = new FormData(); f.append("a", new Blob(["xyz"], {type: "text/plain"}), "q.txt"); f.append("b", new Blob(["x"])); fetch("URL/a", {method: "POST", body: f})',
  'const p = new URLSearchParams("?b=1+2&a=%20&c"); p.append("c", "3"); p.sort(); fetch("URL/a?" + p)',
  'const p = new URLSearchParams([["a", "1"], ["a", "2"]]); p.set("a", "3"); fetch(`URL/a?${p.toString()}`)',
  'fetch("URL/a", {method: "POST", body: new Uint8Array([104, 105])})',
  'fetch("URL/a", {method: "POST", body: new TextEncoder().encode("hi")})',
  'fetch("URL/a", {method: "POST", body: new Blob(["hi", "ü"], {type: "text/x"})})',
  'fetch("URL/a", {method: "POST", body: ["a", " b".trim().toUpperCase(), "c".repeat(2)].join("&")})',
  'fetch("URL/a", {method: "POST", body: 1 + 2 + "a" + 1 + 2 + null})',
  'fetch("URL/a", {method: "POST", body: ""})',
  'fetch("URL/a", {method: "POST", body: {a: 1}})',
  'const u = "u", p = "p"; fetch("URL/a", {headers: {Authorization: `Basic ${btoa(u + ":" + p)}`}})',
  'globalThis.fetch("URL/a b/../ü?q=c d[1]{2}|^`\'<>\\\\#x")',
  'await Promise.all([fetch("URL/a"), fetch("URL/b", {method: "M-SEARCH"})])',
];

describe('a call of fetch is read as what it sends', () => {
  it('is run by what runs scripts here', async () => {
    const doors = await Promise.all(FETCH.map(async (written) => ({ written, door: await echo.openDoor() })));
    // One after the other, so that two calls of one script arrive in their order.
    const script = doors
      .map(({ written, door }) => `await (async () => { ${addressed(written, door)}; await settled(); })();`)
      .join('\n');
    const settle =
      'let last = Promise.resolve(); const plain = fetch; globalThis.fetch = (...given) => (last = last.then(() => plain(...given)).then((one) => one.text())); const settled = () => last;\n';
    await run(process.execPath, [
      '--input-type=module',
      '-e',
      settle + script.replaceAll(/(?<![.\w])fetch\(/g, 'globalThis.fetch('),
    ]);
    for (const { written, door } of doors) expectSame(written, door.take(), 'fetch', door);
  });

  it.each([
    // What is not known is a variable of its own where it is a part of a text.
    ['fetch(`https://a.example/${a.id}/${b.id}?t=${Date.now()}`)', 'https://a.example/‹id›/‹id2›?t=‹now›'],
    [
      'const q = new URLSearchParams(); q.append("t", Date.now()); q.set(name(), "x"); fetch(`https://a.example/?${q}`)',
      'https://a.example/?t=‹now›&‹name›=x',
    ],
    [
      'const u = new URL("https://a.example"); u.search = built(); u.port = 8443; fetch(u)',
      'https://a.example:8443?‹built›',
    ],
    ['const way = "/huts/" + hut(); fetch("https://a.example" + way)', 'https://a.example/huts/‹hut›'],
    ['fetch("https://a.example/" + slug(title))', 'https://a.example/‹slug›'],
    ['const url = new URL(`${base}/huts`); url.searchParams.set("q", "a b"); fetch(url)', '‹base›/huts?q=a+b'],
  ])('%s', (text, url) => {
    const [draft] = readBack(text, 'fetch').drafts;
    expect(draft?.url).toBe(url);
    expect(draft?.variables.map(({ name }) => `‹${name}›`)).toEqual(url.match(/‹\w+›/g));
  });
});
