import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq, gt } from 'drizzle-orm';
import { inParts } from '../../../test/support/bytes';
import { HOME, openOwn } from '../../../test/support/database';
import { sine } from '../../../test/support/render';
import { isUnderWay } from '@/core/protocol/renderStates';
import { writeWav } from '@/core/formats/wav';
import type { Asset } from '@/core/session/records/clips';
import type { SessionDocument } from '@/core/session/records/document';
import { applyCommand, type Command } from '@/core/session/commands';
import { newClip, newDocument } from '@/core/session/records/factories';
import { readRenderRequest } from '@/core/session/renderRequestSchema';
import type { RenderRequest } from '@/core/session/renderRequests';
import { gathered } from '../blobs/pieces';
import type { OpenDatabase } from '../db/database';
import { renders, soundUses, uploads, workers } from '../db/schema';
import { assetFile, findAsset, storeAsset, unusedAssets } from '../repositories/assets';
import {
  beginRender,
  beat,
  buryWorkers,
  cancelRender,
  findRender,
  finishRender,
  leave,
  listRenders,
  orderRender,
  renderResult,
  sweepRenders,
  tellProgress,
} from '../repositories/renders';
import { RenderWorker } from './renderWorker';
import { runRequest } from './runRequest';

const RATE = 48000;
let open: OpenDatabase;
let sound: Asset;

const wav = (hz: number, seconds = 0.5) =>
  writeWav(
    { sampleRateHz: RATE, channels: [sine(hz, RATE, seconds * RATE), sine(1.5 * hz, RATE, seconds * RATE)] },
    '24',
  );

/** A session with a clip of the sound through an echo. */
function session(name = 'Rendered'): SessionDocument {
  const commands: Command[] = [
    { type: 'asset.add', asset: sound },
    { type: 'track.add', id: 'voice', name: 'Voice' },
    {
      type: 'clip.add',
      clip: newClip({
        id: 'clip',
        trackId: 'voice',
        source: { kind: 'sound', assetId: sound.id },
        name: 'clip',
        startBeat: 0,
        lengthSeconds: 0.5,
      }),
    },
    { type: 'insert.add', stripId: 'voice', id: 'echo', effect: 'delay', index: 0 },
  ];
  return applyCommand(newDocument(name), { type: 'all', commands }, '').document;
}

const bounce = (name?: string): RenderRequest => ({
  kind: 'bounce',
  document: session(name),
  delivery: 'speakers',
  fromBeat: 0,
  toBeat: 1,
  tailSeconds: 0.25,
  format: '24',
  gainDb: 0,
});
const chain = (gain: number): RenderRequest => ({
  kind: 'chain',
  effects: [{ effect: 'utility', bypass: false, values: { gain } }],
  sound: { id: sound.id, frames: sound.frames, sampleRateHz: sound.sampleRateHz },
  tailSeconds: 'auto',
  format: '32f',
});

const soundFile = async () => assetFile(open.db, await findAsset(open.db, sound.id));
const folder = mkdtempSync(join(tmpdir(), 'kinetikon-renders-'));
/** Makes a render in this thread. */
async function madeHere(request: RenderRequest) {
  const output = join(folder, 'sound');
  const { facts, bytes } = await runRequest(request, soundFile, output);
  return { facts: JSON.parse(JSON.stringify(facts)) as unknown, file: bytes === null ? null : readFileSync(output) };
}

const ended = async (id: string) => {
  for (;;) {
    const render = await findRender(open.db, id);
    if (['done', 'failed', 'cancelled'].includes(render.state)) return render;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
};

const madeOf = (bytes: number) => ({ bytes, body: [new Uint8Array(bytes)] });

const someone = (id: string) => ({ id, machine: `machine of ${id}` });

beforeAll(async () => {
  open = await openOwn();
  sound = await storeAsset(open.db, 'tone.wav', inParts(wav(220)));
});

beforeEach(async () => {
  await open.db.delete(workers);
  for (const { id, state } of await listRenders(open.db)) {
    await cancelRender(open.db, id);
    if (isUnderWay({ state })) await cancelRender(open.db, id);
  }
  // A render that was cancelled while it waited is still in the queue.
  expect(await beginRender(open.db, someone('sweeper'))).toBeNull();
});

afterAll(async () => {
  await open.close();
  rmSync(folder, { recursive: true });
});

const KINDS: Readonly<Record<string, () => RenderRequest>> = {
  'a bounce': () => bounce(),
  'a bounce to FLAC for headphones': () => ({ ...bounce(), delivery: 'headphones', format: 'flac' }) as RenderRequest,
  'a sound field': () => ({ ...bounce(), delivery: 'field1', format: '32f' }) as RenderRequest,
  'a frozen strip': () => ({ kind: 'print', document: session(), recipe: { kind: 'strip', stripId: 'voice' } }),
  'a printed clip': () => ({ kind: 'print', document: session(), recipe: { kind: 'clip', clipId: 'clip' } }),
  'an impulse': () => ({
    kind: 'impulse',
    from: { kind: 'simulated', simulator: 'plate', values: {}, seed: 3 },
    sampleRateHz: RATE,
  }),
  'a sound through a chain': () => chain(-6),
};

describe('a render by a worker', () => {
  let worker: RenderWorker;
  beforeAll(async () => {
    worker = new RenderWorker(open.db, 2);
    await worker.start();
  });
  afterAll(() => worker.stop());

  it.each(Object.keys(KINDS))('is the same bytes as here: %s', async (kind) => {
    const request = readRenderRequest(JSON.parse(JSON.stringify(KINDS[kind]!())));
    const { id } = await orderRender(open.db, { request, name: kind });
    const done = await ended(id);
    expect([done.state, done.error, done.progress]).toEqual(['done', null, 1]);
    const here = await madeHere(request);
    const { bytes, read } = await renderResult(open.db, id);
    expect(bytes).toBe(here.file!.length);
    expect(Buffer.compare(await gathered(read(0, bytes)), here.file!)).toBe(0);
    expect(done.result).toEqual(here.facts);
    expect(done.machine).toBe(worker.identity.machine);
  });

  it('finds the same settings of a reverb for an impulse as here', async () => {
    const request: RenderRequest = { kind: 'match', impulse: { assetId: sound.id }, sampleRateHz: RATE };
    const { id } = await orderRender(open.db, { request, name: 'match' });
    const done = await ended(id);
    const here = await madeHere(request).then(
      ({ facts }) => ({ state: 'done', facts }),
      (error: Error) => ({ state: 'failed', message: error.message }),
    );
    expect(done.state).toBe(here.state);
    if ('facts' in here) expect(done.result).toEqual(here.facts);
    else expect(done.error!.message).toBe(here.message);
  });

  it('fails by name when a sound is not there', async () => {
    const other = { ...chain(1), sound: { id: 'f'.repeat(64), frames: 100, sampleRateHz: RATE } } as RenderRequest;
    const done = await ended((await orderRender(open.db, { request: other, name: 'Lost' })).id);
    expect([done.state, done.error]).toEqual([
      'failed',
      { code: 'asset.missing', message: 'A sound of Lost is not there.' },
    ]);
  });
});

describe('the queue of renders', () => {
  it('makes the same render once, and begins one that was cancelled anew', async () => {
    const orders = await Promise.all(
      Array.from({ length: 8 }, () => orderRender(open.db, { request: chain(2), name: 'Once' })),
    );
    expect(new Set(orders.map(({ id }) => id)).size).toBe(1);
    const begun = await beginRender(open.db, someone('a'));
    expect(begun!.id).toBe(orders[0]!.id);
    expect(await beginRender(open.db, someone('a'))).toBeNull();
    expect(await finishRender(open.db, begun!, { sampleRateHz: RATE }, madeOf(5))).toBe(true);
    expect((await orderRender(open.db, { request: chain(2), name: 'Once' })).state).toBe('done');
    const other = await orderRender(open.db, { request: chain(3), name: 'Twice' });
    await cancelRender(open.db, other.id);
    expect((await orderRender(open.db, { request: chain(3), name: 'Twice' })).state).toBe('waiting');
    expect((await beginRender(open.db, someone('a')))!.id).toBe(other.id);
    expect(await beginRender(open.db, someone('a'))).toBeNull();
  });

  it('takes what somebody waits for first, and then from each session in turn', async () => {
    const order = (gain: number, name: string, isBatch = false) =>
      orderRender(open.db, { request: chain(gain), name, isBatch });
    await order(10, 'batch', true);
    for (const gain of [11, 12, 13]) await order(gain, 'first');
    for (const gain of [14, 15]) await order(gain, 'second');
    const names: string[] = [];
    for (let next = await beginRender(open.db, someone('a')); next; next = await beginRender(open.db, someone('a'))) {
      names.push(next.name);
    }
    expect(names).toEqual(['first', 'second', 'first', 'second', 'first', 'batch']);
  });

  it('gives back what a dead worker ran, and keeps the result of one of them', async () => {
    const { id } = await orderRender(open.db, { request: chain(20), name: 'Given back' });
    await beat(open.db, someone('dead'), 1);
    const first = (await beginRender(open.db, someone('dead')))!;
    expect(await tellProgress(open.db, first, 0.5)).toBe(true);
    expect(await buryWorkers(open.db)).toBe(0);
    await open.db.update(workers).set({ beatAt: new Date(Date.now() - 6000) });
    expect(await buryWorkers(open.db)).toBe(1);
    expect(await findRender(open.db, id)).toMatchObject({ state: 'waiting', progress: 0, machine: null });
    const second = (await beginRender(open.db, someone('heir')))!;
    expect([second.id, second.attempt]).toEqual([id, 2]);
    // The one that was taken for dead comes late.
    expect(await tellProgress(open.db, first, 0.9)).toBe(false);
    expect(await finishRender(open.db, first, { sampleRateHz: 1 }, madeOf(3))).toBe(false);
    expect(await finishRender(open.db, second, { sampleRateHz: 2 }, madeOf(4))).toBe(true);
    expect(await findRender(open.db, id)).toMatchObject({ state: 'done', result: { sampleRateHz: 2 }, resultBytes: 4 });
    expect(await open.db.$count(uploads, gt(uploads.beatAt, new Date(0)))).toBe(0);
  });

  it('gives a render up whose workers have died five times, and says so', async () => {
    const { id } = await orderRender(open.db, { request: chain(21), name: 'Deadly' });
    for (let n = 1; n <= 5; n++) {
      await beat(open.db, someone(`w${n}`), 1);
      expect((await beginRender(open.db, someone(`w${n}`)))!.attempt).toBe(n);
      await leave(open.db, someone(`w${n}`));
    }
    expect(await findRender(open.db, id)).toMatchObject({
      state: 'failed',
      error: { message: 'Its workers broke off 5 times.' },
    });
    expect(await beginRender(open.db, someone('w6'))).toBeNull();
  });

  it('waits for a worker of its versions, and says for what', async () => {
    const { id } = await orderRender(open.db, { request: chain(22), name: 'Of yesterday' });
    expect((await findRender(open.db, id)).waitsFor).toEqual(
      HOME === 'server' ? expect.stringMatching(/^a worker of engine \d+ and document \d+$/) : null,
    );
    await beat(open.db, someone('a'), 1);
    expect((await findRender(open.db, id)).waitsFor).toBeNull();
  });

  it('keeps the sounds of what waits from being swept, and removes what ended long ago', async () => {
    const { id } = await orderRender(open.db, { request: chain(23), name: 'Holds' });
    expect(await unusedAssets(open.db, -1)).toEqual([]);
    const begun = (await beginRender(open.db, someone('a')))!;
    await finishRender(open.db, begun, { sampleRateHz: RATE }, madeOf(9));
    expect((await unusedAssets(open.db, -1)).map((one) => one.id)).toEqual([sound.id]);
    expect(await sweepRenders(open.db)).toBe(0);
    await open.db
      .update(renders)
      .set({ endedAt: new Date(Date.now() - 8 * 86400_000) })
      .where(eq(renders.id, id));
    expect(await sweepRenders(open.db)).toBe(1);
    await expect(findRender(open.db, id)).rejects.toMatchObject({ code: 'render.missing' });
    expect(await open.db.$count(soundUses, eq(soundUses.kind, 'render'))).toBe(0);
  });

  it('stops a render that is cancelled while it runs', async () => {
    const worker = new RenderWorker(open.db, 1);
    const long = { ...bounce('Long'), toBeat: 2000 } as RenderRequest;
    const { id } = await orderRender(open.db, { request: long, name: 'Long' });
    await worker.start();
    while ((await findRender(open.db, id)).progress === 0) await new Promise((resolve) => setTimeout(resolve, 20));
    await cancelRender(open.db, id);
    const { id: next } = await orderRender(open.db, { request: chain(24), name: 'Next' });
    expect((await ended(next)).state).toBe('done');
    expect((await findRender(open.db, id)).state).toBe('cancelled');
    await worker.stop();
  });

  it('takes back at once what a worker leaves that ends in order', async () => {
    const worker = new RenderWorker(open.db, 1);
    const long = { ...bounce('Left'), toBeat: 2000 } as RenderRequest;
    const { id } = await orderRender(open.db, { request: long, name: 'Left' });
    await worker.start();
    while ((await findRender(open.db, id)).progress === 0) await new Promise((resolve) => setTimeout(resolve, 20));
    await worker.stop();
    expect(await findRender(open.db, id)).toMatchObject({ state: 'waiting', error: null });
  });
});

describe('a request of a render', () => {
  const refused: readonly (readonly [string, unknown, RegExp])[] = [
    ['nothing', null, /A render is one of bounce/],
    ['another kind', { kind: 'paint' }, /A render is one of bounce/],
    [
      'a field too many',
      { ...{ kind: 'impulse', from: { kind: 'shipped', id: 'x' }, sampleRateHz: RATE }, colour: 1 },
      /colour/,
    ],
    [
      'an unknown impulse',
      { kind: 'impulse', from: { kind: 'shipped', id: 'x' }, sampleRateHz: RATE },
      /no impulse "x"/,
    ],
    [
      'a seed of text',
      { kind: 'impulse', from: { kind: 'simulated', simulator: 'plate', values: {}, seed: 'x' }, sampleRateHz: RATE },
      /seed/,
    ],
    [
      'a rate of 7',
      { kind: 'match', impulse: { assetId: 'a'.repeat(64) }, sampleRateHz: 7 },
      /sampleRateHz takes 8000/,
    ],
  ];
  it.each(refused)('is refused with %s', (_, request, message) => {
    expect(() => readRenderRequest(request)).toThrow(message);
  });

  it('is refused when it does not fit its session', () => {
    expect(() => readRenderRequest({ ...bounce(), toBeat: 0 })).toThrow(/toBeat/);
    expect(() => readRenderRequest({ ...bounce(), format: 'mp3' })).toThrow(/format/);
    expect(() =>
      readRenderRequest({ kind: 'print', document: session(), recipe: { kind: 'clip', clipId: 'ghost' } }),
    ).toThrow(/a clip that is not there/);
    const loud = { ...chain(1), effects: [{ effect: 'utility', bypass: false, values: { gain: 9000 } }] };
    expect(() => readRenderRequest(loud)).toThrow(/gain/);
  });
});
