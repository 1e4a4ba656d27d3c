/** Reads long sounds by pages, ahead of where the engine plays. */
import { KinetikonError } from '@/core/errors';
import { PageReader } from '@/core/pages/pageReader';
import { Pager } from '@/core/pages/pager';
import { METER } from '@/core/protocol/meters';
import { sentError } from '@/core/protocol/sentError';
import type { FromPages, ToPages } from '@/core/protocol/pages';
import { assetOfSound } from '@/core/session/records/sounds';
import { provideWasm } from '@/core/wasm/module';
import { openLong } from './longSounds';

/** How often it is looked where the engine plays. */
const LOOK_MS = 50;

/** A jump comes within this time. */
const REACH_MS = 1500;

/** Seconds that are read ahead. */
const AHEAD_SECONDS = 10;

const send = (message: FromPages) => self.postMessage(message);

const pager = new Pager(
  {
    onChunk: (chunk) => send({ kind: 'chunk', chunk }),
    onProblem: (soundId, error) => send({ kind: 'problem', soundId, error: sentError(error) }),
  },
  () => performance.now(),
);
let meters: Float64Array | null = null;
let sampleRateHz = 0;
/** Where the playhead is going to jump, and how long that is waited for. */
let reached = { frame: null as number | null, until: 0 };
/** Sounds that are wanted: one that is closed while it is opened is let go at once. */
const wanted = new Set<string>();
let isRefusalTold = false;

function look(): void {
  if (!meters) return;
  const { frame, until } = reached;
  const position = frame !== null && performance.now() < until ? frame : meters[METER.positionFrame]!;
  pager.look(Math.max(0, position), AHEAD_SECONDS * sampleRateHz);
}

/** Tells once that long sounds are not kept. */
function tellRefused(soundId: string): void {
  if (isRefusalTold) return;
  isRefusalTold = true;
  const error = new KinetikonError('storage.full', 'The browser does not keep long sounds here.', {
    kept: 'They are read from the server whenever they are played.',
    next: 'Free some space on the disk, or allow this page to store data.',
  });
  send({ kind: 'problem', soundId, error: sentError(error) });
}

async function open({ soundId, name, sampleRateHz: rate }: Extract<ToPages, { kind: 'open' }>): Promise<void> {
  wanted.add(soundId);
  sampleRateHz = rate;
  try {
    const onProgress = (done: number) => send({ kind: 'unrolling', done });
    const sound = await openLong({ assetId: soundId, name }, onProgress, () => tellRefused(soundId));
    if (!wanted.has(soundId)) return sound?.free();
    if (!sound) return send({ kind: 'opened', soundId, sound: null });
    const { frames, sides, table } = pager.open(soundId, new PageReader(sound, assetOfSound(soundId).heard, rate));
    send({ kind: 'opened', soundId, sound: { frames, sides, table } });
    look();
  } catch (error) {
    send({ kind: 'failed', soundId, error: sentError(error) });
  }
}

async function draw({ soundId, page }: Extract<ToPages, { kind: 'page' }>): Promise<void> {
  const sides = await pager.page(soundId, page).catch(() => null);
  send({ kind: 'page', soundId, page, sides });
}

self.onmessage = ({ data }: MessageEvent<ToPages>) => {
  switch (data.kind) {
    case 'begin':
      provideWasm(() => data.kernels);
      meters = new Float64Array(data.meters);
      send({ kind: 'counters', counters: pager.memory.counters });
      setInterval(look, LOOK_MS);
      return;
    case 'open':
      return void open(data);
    case 'reach':
      reached = { frame: data.frame, until: performance.now() + REACH_MS };
      return look();
    case 'close':
      wanted.delete(data.soundId);
      return pager.close(data.soundId);
    case 'page':
      return void draw(data);
    case 'plan':
      pager.setPlan(data.plan);
      return look();
  }
};
