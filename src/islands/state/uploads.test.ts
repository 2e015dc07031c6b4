import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { ImportProgress } from '#core/wire';
import { $uploads, cancelUpload, forgetUpload, upload } from './uploads';

// One upload against a server that answers when the test says so.

class FakeRequest extends EventTarget {
  readonly upload = new EventTarget();
  status = 0;
  responseText = '';
  url = '';
  body: unknown;
  constructor() {
    super();
    request = this;
  }
  open(_method: string, url: string): void {
    this.url = url;
  }
  send(body: unknown): void {
    this.body = body;
  }
  abort(): void {
    this.dispatchEvent(new Event('abort'));
  }
  answer(status: number, text: string): void {
    Object.assign(this, { status, responseText: text });
    this.dispatchEvent(new Event('load'));
  }
}

class FakeEvents extends EventTarget {
  readonly url: string;
  isClosed = false;
  constructor(url: string) {
    super();
    this.url = url;
    events = this;
  }
  close(): void {
    this.isClosed = true;
  }
  tell(progress: ImportProgress): void {
    this.dispatchEvent(new MessageEvent('message', { data: JSON.stringify(progress) }));
  }
}

let events: FakeEvents | undefined;
let request: FakeRequest;

beforeEach(() => {
  vi.stubGlobal('XMLHttpRequest', FakeRequest);
  vi.stubGlobal('EventSource', FakeEvents);
  $uploads.set({});
});
afterEach(() => vi.unstubAllGlobals());

const FILE = new File(['{"log":{}}'], 'first visit.har');

function start() {
  const done = upload(FILE);
  const [id = ''] = Object.keys($uploads.get());
  const now = () => $uploads.get()[id];
  if (events === undefined) throw new Error('nobody listens to the import');
  return { done, id, now, told: events };
}

function sent(loaded: number): void {
  request.upload.dispatchEvent(Object.assign(new Event('progress'), { loaded }));
}

describe('an upload', () => {
  it('is followed from its sending to the shelf', async () => {
    const { done, id, now, told } = start();
    expect(request.url).toBe(`/api/captures?name=first+visit&importId=${id}`);
    expect(request.body).toBe(FILE);
    expect(told.url).toBe(`/api/imports/${id}/events`);
    sent(4);
    expect(now()).toMatchObject({ state: 'sending', sentBytes: 4, totalBytes: 10, name: 'first visit' });
    told.tell({ phase: 'waiting' });
    expect(now()?.state).toBe('waiting');
    told.tell({ phase: 'reading', readBytes: 5, totalBytes: 40, exchanges: 2 });
    expect(now()).toMatchObject({ state: 'reading', readBytes: 5, totalBytes: 40, exchanges: 2 });
    // Late news of the sending does not take it back to that.
    sent(10);
    expect(now()?.state).toBe('reading');
    request.answer(200, '[{"type":"imported","id":"1","name":"first visit","exchanges":2}]');
    await done;
    expect(now()).toMatchObject({ state: 'ended', results: [{ type: 'imported', id: '1' }] });
    expect(told.isClosed).toBe(true);
  });

  it('that is refused says why', async () => {
    const { done, now } = start();
    request.answer(422, '{"sentence":"The file is empty.","advice":"Save it again."}');
    await done;
    expect(now()).toMatchObject({ state: 'failed', problem: { sentence: 'The file is empty.' } });
  });

  it.each([
    ['a server that is gone', () => request.dispatchEvent(new Event('error'))],
    ['an answer that is none of the server’s', () => request.answer(502, '<html>bad gateway</html>')],
  ])('tells of %s in a sentence', async (_, happen) => {
    const { done, now } = start();
    happen();
    await done;
    const ended = now();
    if (ended?.state !== 'failed') throw new Error('it has to fail');
    expect(ended.problem.sentence).toMatch(/\.$/);
    expect(ended.problem.sentence).not.toContain('<');
  });

  it('that is cancelled leaves nothing behind, and late news does not bring it back', async () => {
    const { done, id, now, told } = start();
    cancelUpload(id);
    await done;
    expect(now()).toBeUndefined();
    told.tell({ phase: 'reading', readBytes: 5, totalBytes: 40, exchanges: 2 });
    expect($uploads.get()).toEqual({});
    expect(told.isClosed).toBe(true);
  });

  it('is forgotten alone', async () => {
    const first = start();
    request.answer(200, '[]');
    await first.done;
    const second = upload(FILE);
    expect(Object.keys($uploads.get())).toHaveLength(2);
    forgetUpload(first.id);
    expect(Object.keys($uploads.get())).not.toContain(first.id);
    expect(Object.keys($uploads.get())).toHaveLength(1);
    request.answer(200, '[]');
    await second;
  });
});
