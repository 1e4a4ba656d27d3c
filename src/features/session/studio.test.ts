/** @jest-environment jsdom */
import type { Levels } from '@/core/analysis/levels';
import { effectById } from '@/core/effects/registry';
import { findParameter, type NumberParameter } from '@/core/effects/spec';
import { KinetikonError } from '@/core/errors';
import { applyCommand, type Command } from '@/core/session/commands';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import { newClip, newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import type { FileAbout } from '@/core/formats/about/about';
import * as api from '@/runtime/client/api';
import { gainsFor } from './comparing';
import { mirrorCommand } from './mirroring';
import { Studio } from './studio';

jest.mock('@/runtime/client/api');
/** What the files of a test tell, by name. */
const mockTold = new Map<string, FileAbout>();
jest.mock('@/runtime/client/workerClient', () => ({
  WorkerClient: class {
    load = 0;
    warmUp() {}
    close() {}
    run = jest.fn(async (task: { kind: string; name?: string; file?: File }) => {
      if (task.kind === 'about') return { about: mockTold.get(task.file!.name) ?? null };
      if (task.name === 'torn.wav') throw new KinetikonError('file.broken', 'torn.wav: cut short');
      return {
        left: new Float32Array(4),
        right: new Float32Array(4),
        originalFrames: 4,
        originalRateHz: 48000,
        channels: 1,
      };
    });
  },
}));
/** Long sounds that have been opened, and those that were let go. */
const mockPages = { opened: [] as string[], closed: [] as string[], ready: true, reached: [] as number[] };
jest.mock('@/runtime/client/pagesClient', () => ({
  PagesClient: class {
    lateBlocks = 0;
    open = async (id: string) => {
      mockPages.opened.push(id);
      return { frames: 48000 * 100, sides: 1, table: new Int32Array(100), memory: { chunks: [], counters: null } };
    };
    close = (id: string) => void mockPages.closed.push(id);
    setPlan = () => {};
    isReady = () => mockPages.ready;
    ready = async () => {};
    jumped = () => {};
    reach = async (frame: number) => void mockPages.reached.push(frame);
    dispose = () => {};
  },
}));
jest.mock('@/runtime/client/engineClient', () => ({
  EngineClient: class {
    plans: unknown[] = [];
    sounds: string[] = [];
    meters = new Float64Array(8);
    setPageMemory = () => {};
    dropped: string[] = [];
    dropSamples = (id: string) => this.dropped.push(id);
    playing = false;
    heardFrame = 0;
    tailSeconds = Infinity;
    level = () => ({ left: 0.1, right: 0.1 });
    setPlan = (plan: unknown) => this.plans.push(plan);
    setSamples = (id: string) => this.sounds.push(id);
    setGuard = () => {};
    looks = 0;
    missingResources = () => {
      this.looks++;
      return [];
    };
    prepare = async () => {};
    warmUp = async () => {};
    play = async () => {
      this.playing = true;
    };
    stop = () => {
      this.playing = false;
    };
    seek = (frame: number) => {
      this.heardFrame = frame;
    };
    dispose = async () => {};
  },
}));

const mocked = jest.mocked(api);
const SOUND = 'c'.repeat(64);
const asset = { id: SOUND, name: 'voice.wav', frames: 96000, sampleRateHz: 48000, channels: 1 };

function document(): SessionDocument {
  return applyCommand(
    newDocument('Quay'),
    {
      type: 'all',
      commands: [
        { type: 'track.add', id: 'voice', name: 'Lamp keeper' },
        { type: 'insert.add', stripId: 'voice', id: 'echo', effect: 'delay', index: 0 },
      ],
    },
    '',
  ).document;
}

function open() {
  const moved: string[] = [];
  const stored = { id: 's1', revision: 1, saveId: null, document: document(), history: EMPTY_HISTORY };
  const opening = { stored, unsaved: null, draftKey: null, notes: [] };
  const studio = new Studio(opening, (id) => moved.push(id), null, null);
  return {
    studio,
    moved,
    engine: studio.engine as unknown as {
      plans: unknown[];
      sounds: string[];
      playing: boolean;
      heardFrame: number;
      tailSeconds: number;
      dropped: string[];
    },
  };
}

const mix = (studio: Studio) => studio.state.document.inserts.echo!.values.mix;
const setMix = (value: number) => ({ type: 'insert.set' as const, id: 'echo', values: { mix: value } });

beforeEach(() => {
  jest.useFakeTimers();
  jest.resetAllMocks();
  let revision = 1;
  mocked.saveSession.mockImplementation(async () => ({ revision: ++revision, freeBytes: null }));
  mocked.uploadAsset.mockResolvedValue(asset);
  mocked.fetchAsset.mockResolvedValue(new ArrayBuffer(4));
  mocked.fetchPeaks.mockResolvedValue(new Int8Array(2));
  Object.defineProperty(globalThis, 'crypto', {
    value: { randomUUID: () => `id-${Math.random().toString(36).slice(2)}` },
    configurable: true,
  });
});
afterEach(() => jest.useRealTimers());

describe('controls and their lanes', () => {
  const parameter = findParameter(effectById('delay'), 'mix')!;
  const lane = (studio: Studio) => Object.values(studio.state.document.lanes)[0];
  const turn = (studio: Studio, value: number) => studio.controls.turn('echo', parameter, value, 'Mix');
  const seconds = (studio: Studio, at: number) => studio.engine.seek(Math.round(at * 48000));

  it('a recording that is given up leaves nothing, and nothing of it is in the next', () => {
    const { studio, engine } = open();
    studio.set({ armed: true });
    engine.playing = true;
    seconds(studio, 1);
    turn(studio, 90);
    studio.editor.abandon();
    expect([lane(studio), mix(studio), studio.state.history.past.length]).toEqual([undefined, 30, 0]);
    seconds(studio, 3);
    turn(studio, 50);
    seconds(studio, 4);
    turn(studio, 60);
    studio.editor.settle();
    expect(lane(studio)!.points.some(({ value }) => value === 90)).toBe(false);
    expect(lane(studio)!.points.some(({ value }) => value === 60)).toBe(true);
  });

  it('a control moved by hand takes its lane off; giving back is one step', () => {
    const { studio } = open();
    studio.controls.addLane('l', 'echo', parameter);
    expect(lane(studio)).toMatchObject({ on: true, points: [{ beat: 0, value: 30 }] });
    turn(studio, 50);
    turn(studio, 55);
    studio.editor.settle();
    expect([lane(studio)!.on, mix(studio)]).toEqual([false, 55]);
    studio.editor.undo();
    expect([lane(studio)!.on, mix(studio)]).toEqual([true, 30]);
  });

  it('a control moved while armed and playing writes a thinned lane as one step, and stays where it was', async () => {
    const { studio } = open();
    studio.set({ armed: true });
    await studio.transport.play();
    for (let step = 0; step <= 100; step++) {
      seconds(studio, step / 50);
      turn(studio, 30 + 0.4 * step);
    }
    studio.editor.settle();
    const written = lane(studio)!;
    expect(written).toMatchObject({ ownerId: 'echo', parameter: 'mix', on: true });
    expect(written.points.length).toBeLessThan(5);
    expect(written.points[0]).toMatchObject({ beat: 0, value: 30 });
    expect(written.points.at(-1)!.value).toBe(70);
    expect(mix(studio)).toBe(30);
    expect(studio.state.history.past.map((step) => step.label)).toEqual(['Write Mix']);
    studio.editor.undo();
    expect(lane(studio)).toBeUndefined();
  });

  it('controls that one hand moves together write a lane each, as one step', async () => {
    const { studio } = open();
    studio.set({ armed: true });
    await studio.transport.play();
    const other = effectById('delay').parameters.find(({ id, kind }) => kind === 'number' && id !== 'mix')!;
    const value = (other as NumberParameter).default;
    for (let step = 0; step <= 20; step++) {
      seconds(studio, step / 10);
      const turns = [
        { ownerId: 'echo', parameter, value: 30 + step },
        { ownerId: 'echo', parameter: other, value },
      ];
      expect(studio.controls.turnAll(turns, 'Both')).toBeNull();
    }
    studio.editor.settle();
    const lanes = Object.values(studio.state.document.lanes);
    expect(lanes.map((one) => one.parameter).sort()).toEqual(['mix', other.id].sort());
    expect(lanes.find((one) => one.parameter === 'mix')!.points.at(-1)!.value).toBe(50);
    expect(studio.state.history.past.length).toBe(1);
    expect(mix(studio)).toBe(30);
    studio.editor.undo();
    expect(Object.keys(studio.state.document.lanes)).toEqual([]);
  });

  it('writes only within the loop when punching, and over what stood there', async () => {
    const { studio } = open();
    const { tempoBpm } = studio.state.document.session;
    studio.editor.perform({ type: 'session.set', values: { loopOn: true, loopStartBeat: 1, loopEndBeat: 2 } }, 'Loop');
    studio.controls.addLane('l', 'echo', parameter);
    studio.set({ armed: true, punch: true });
    await studio.transport.play();
    for (let beat = 0; beat <= 3; beat += 0.25) {
      seconds(studio, (beat * 60) / tempoBpm);
      turn(studio, 40 + beat);
    }
    studio.editor.settle();
    expect(lane(studio)!.points.map((point) => point.beat)).toEqual([0, 1, 2]);
  });

  it('a drag asks for no sound and prepares nothing that it does not change; what it adds is loaded', async () => {
    const { studio, engine } = open();
    const { looks } = engine as unknown as { looks: number };
    const asked = () => (engine as unknown as { looks: number }).looks - looks;
    studio.editor.preview({ type: 'strip.set', id: 'voice', values: { gainDb: -3 } }, 'Level');
    studio.editor.settle();
    expect([engine.plans.length > 0, asked()]).toEqual([true, 0]);
    studio.editor.preview(setMix(70), 'Mix');
    expect(asked()).toBeGreaterThan(0);
    studio.editor.settle();
    expect(mocked.fetchAsset).not.toHaveBeenCalled();
    studio.imports.placeSound(asset, 0, 'voice');
    expect(mocked.fetchAsset).toHaveBeenCalledTimes(1);
    expect(mocked.fetchPeaks).toHaveBeenCalledTimes(1);
    await jest.advanceTimersByTimeAsync(0);
  });

  it('what is chosen below the timeline is of the strip that is chosen', () => {
    const { studio } = open();
    const [trackId] = studio.state.document.session.trackIds;
    const source = { kind: 'sound', assetId: SOUND } as const;
    const clip = newClip({ id: 'word', trackId: trackId!, source, name: 'word', startBeat: 0, lengthSeconds: 1 });
    const commands = [{ type: 'asset.add', asset } as const, { type: 'clip.add', clip } as const];
    studio.editor.perform({ type: 'all', commands }, 'Bring in');
    studio.selection.selectClip('word', false);
    expect(studio.state).toMatchObject({ clipIds: ['word'], stripId: trackId });
    studio.selection.selectStrip(trackId!);
    expect(studio.state.clipIds).toEqual(['word']);
    studio.selection.selectStrip('main');
    expect(studio.state).toMatchObject({ clipIds: [], word: null, stripId: 'main' });
  });

  it('presets are tried and taken back or kept', () => {
    const { studio } = open();
    studio.editor.preview(setMix(77), 'Delay: one');
    studio.editor.preview(setMix(12), 'Delay: two');
    studio.editor.abandon();
    expect(mix(studio)).toBe(30);
    studio.editor.preview(setMix(12), 'Delay: two');
    studio.editor.settle();
    expect([mix(studio), studio.state.history.past.length]).toEqual([12, 1]);
  });

  it('what evens compared settings out is played, not kept', () => {
    const { studio, engine } = open();
    const before = studio.state.document;
    studio.monitor.setTrim('voice', -4);
    const plan = engine.plans.at(-1) as { strips: { inserts: { id: string }[] }[] };
    expect(plan.strips[0]!.inserts.map((insert) => insert.id)).toEqual(['echo', 'voice>trim']);
    expect(studio.state.document).toBe(before);
    studio.monitor.setTrim('voice', 0);
    expect(studio.state.trims).toEqual({});
  });

  it('opens a lane on its strip', () => {
    const { studio } = open();
    studio.controls.addLane('l', 'echo', parameter);
    studio.selection.selectStrip('main');
    studio.selection.openLane('l');
    expect(studio.state).toMatchObject({ view: 'timeline', laneId: 'l', stripId: 'voice' });
  });
});

describe('opening', () => {
  const withSound = () => {
    const one = open();
    one.studio.editor.perform(
      {
        type: 'all',
        commands: [
          { type: 'asset.add', asset },
          {
            type: 'clip.add',
            clip: newClip({
              id: 'clip',
              trackId: 'voice',
              source: { kind: 'sound', assetId: SOUND },
              name: 'voice',
              startBeat: 0,
              lengthSeconds: 1,
            }),
          },
        ],
      },
      'Bring in',
    );
    return one;
  };
  const settled = async (work: Promise<unknown>) => {
    let done = false;
    void work.then(() => (done = true));
    await jest.advanceTimersByTimeAsync(10);
    return done;
  };

  it.each([
    ['is there', (come: (bytes: ArrayBuffer) => void) => come(new ArrayBuffer(4))],
    ['cannot be had', (_: unknown, fail: (error: Error) => void) => fail(new Error('gone'))],
  ])('other work waits until what is played first %s', async (_, end) => {
    let [come, fail]: [(bytes: ArrayBuffer) => void, (error: Error) => void] = [() => {}, () => {}];
    mocked.fetchAsset.mockReturnValue(new Promise((resolve, reject) => ([come, fail] = [resolve, reject])));
    const { studio } = withSound();
    await studio.open();
    expect(studio.state.missingSounds).toEqual([asset.name]);
    const first = studio.sounds.firstSounds(new AbortController().signal);
    expect(await settled(first)).toBe(false);
    end(come, fail);
    expect(await settled(first)).toBe(true);
    studio.close();
  });

  it('nothing waits where nothing is played, and waiting can be given up', async () => {
    const { studio } = open();
    await studio.open();
    expect(await settled(studio.sounds.firstSounds(new AbortController().signal))).toBe(true);
    mocked.fetchAsset.mockReturnValue(new Promise(() => {}));
    const other = withSound().studio;
    await other.open();
    const controller = new AbortController();
    const waiting = other.sounds.firstSounds(controller.signal);
    controller.abort();
    await expect(waiting).rejects.toThrow('Cancelled.');
  });
});

describe('comparing', () => {
  it('brings every setting down to the softest', () => {
    const of = (loudnessLufs: number | null): Levels => ({
      loudnessLufs,
      ...{ seconds: 1, sampleRateHz: 48000, channels: 2, overs: 0 },
      ...{ truePeakDb: null, peakDb: null, rmsDb: null, correlation: null, monoLossLu: null },
    });
    expect(gainsFor({ A: of(-20), B: of(-17.5), C: of(null) })).toEqual({ A: 0, B: -2.5, C: 0 });
  });
});

describe('mirroring an equalizer', () => {
  const values = {
    'bands.1.on': true,
    'bands.2.on': true,
    'bands.2.gain': 5,
    'bands.2.frequency': 700,
    'bands.4.on': true,
    'bands.4.gain': -3,
  };

  it('lowers what is lifted, and leaves cuts out', () => {
    const { studio } = open();
    studio.editor.perform({ type: 'insert.add', stripId: 'voice', id: 'tone', effect: 'eq', index: 1, values }, 'Add');
    const insert = studio.state.document.inserts.tone!;
    studio.editor.perform(mirrorCommand(studio.state.document, insert, 'main', 'other'), 'Mirror');
    const mirrored = studio.state.document.inserts.other!.values;
    expect([mirrored['bands.1.on'], mirrored['bands.1.gain'], mirrored['bands.1.frequency']]).toEqual([true, -5, 700]);
    expect([mirrored['bands.2.gain'], mirrored['bands.3.on']]).toEqual([3, false]);
  });

  it('takes free bands of an equalizer that stands there, and a new one when they do not do', () => {
    const { studio } = open();
    const own = { 'bands.1.on': true, 'bands.1.frequency': 90, 'bands.3.on': true };
    studio.editor.perform({ type: 'insert.add', stripId: 'voice', id: 'tone', effect: 'eq', index: 1, values }, 'Add');
    studio.editor.perform(
      { type: 'insert.add', stripId: 'main', id: 'there', effect: 'eq', index: 0, values: own },
      'Add',
    );
    const insert = studio.state.document.inserts.tone!;
    studio.editor.perform(mirrorCommand(studio.state.document, insert, 'main', 'other'), 'Mirror');
    const { main, inserts } = studio.state.document;
    const there = inserts.there!.values;
    expect(main.insertIds).toEqual(['there']);
    expect([there['bands.1.frequency'], there['bands.2.gain'], there['bands.4.gain']]).toEqual([90, -5, 3]);
    const full = Object.fromEntries(Array.from({ length: 8 }, (_, n) => [`bands.${n + 1}.on`, true]));
    studio.editor.perform({ type: 'insert.set', id: 'there', values: full }, 'Fill');
    studio.editor.perform(mirrorCommand(studio.state.document, insert, 'main', 'other'), 'Mirror');
    expect(studio.state.document.main.insertIds).toEqual(['there', 'other']);
  });
});

describe('changes', () => {
  it('a drag sounds at once, at every place, and is one step that can be taken back', () => {
    const { studio, engine } = open();
    const before = engine.plans.length;
    for (const value of [31, 35, 44]) studio.editor.preview(setMix(value), 'Mix');
    expect([mix(studio), engine.plans.length - before, studio.state.history.past.length]).toEqual([44, 3, 0]);
    studio.editor.settle();
    expect(studio.state.history.past.map((step) => step.label)).toEqual(['Mix']);
    studio.editor.undo();
    expect(mix(studio)).toBe(30);
    studio.editor.redo();
    expect(mix(studio)).toBe(44);
  });

  it('a drag that is given up leaves nothing', () => {
    const { studio } = open();
    studio.editor.preview(setMix(80), 'Mix');
    studio.editor.abandon();
    expect([mix(studio), studio.state.history.past.length, studio.state.saveState]).toEqual([30, 0, 'saved']);
  });

  it('work that is finished during a drag stays when the drag is settled, given up, or undone', () => {
    const add: Command = { type: 'section.add', section: { id: 'made', name: 'Made', startBeat: 0, lengthBeats: 4 } };
    for (const end of ['settle', 'abandon'] as const) {
      const { studio } = open();
      studio.editor.preview(setMix(80), 'Mix');
      studio.editor.record(add);
      studio.editor.preview(setMix(90), 'Mix');
      studio.editor[end]();
      expect([mix(studio), 'made' in studio.state.document.sections]).toEqual([end === 'settle' ? 90 : 30, true]);
      if (end === 'settle') studio.editor.undo();
      expect([mix(studio), 'made' in studio.state.document.sections]).toEqual([30, true]);
    }
  });

  it('a refused command is reported and changes nothing; a drag out of range stays where it was', () => {
    const { studio } = open();
    expect(studio.editor.perform(setMix(140), 'Mix')).toBe(false);
    expect(studio.state.problems[0]!.message).toContain('mix takes 0 % to 100 %');
    studio.messages.dismiss(studio.state.problems[0]!.id);
    studio.editor.preview(setMix(60), 'Mix');
    studio.editor.preview(setMix(160), 'Mix');
    studio.editor.settle();
    expect([mix(studio), studio.state.problems]).toEqual([60, []]);
  });

  it('selection follows what is there', () => {
    const { studio } = open();
    studio.selection.selectInsert('echo');
    studio.editor.perform({ type: 'insert.remove', id: 'echo' }, 'Remove');
    expect([studio.state.stripId, studio.state.insertId]).toEqual(['voice', null]);
    studio.editor.perform({ type: 'strip.remove', id: 'voice' }, 'Remove');
    expect(studio.state.stripId).toBe('main');
    studio.editor.undo();
    studio.editor.undo();
    studio.selection.selectInsert('echo');
    expect([studio.state.stripId, studio.state.insertId]).toEqual(['voice', 'echo']);
  });

  it('plays, stops and seeks in beats', async () => {
    const { studio, engine } = open();
    studio.transport.seekBeat(4);
    expect(studio.transport.heardBeat).toBeCloseTo(4, 9);
    studio.transport.toggle();
    await Promise.resolve();
    expect(engine.playing).toBe(true);
    studio.transport.toggle();
    expect(engine.playing).toBe(false);
  });

  it('ends where it began when everything has rung out, also after the engine was lost for a while', async () => {
    const { studio, engine } = open();
    const notes = [{ id: 'n', ownerId: 'voice', startBeat: 0, lengthBeats: 8, key: 60, velocity: 100 }];
    studio.editor.perform({ type: 'note.add', notes }, 'Note');
    studio.transport.seekBeat(4);
    const begin = engine.heardFrame;
    await studio.transport.play();
    engine.heardFrame = begin * 4;
    engine.playing = false;
    await jest.advanceTimersByTimeAsync(1000);
    engine.playing = true;
    await jest.advanceTimersByTimeAsync(1000);
    expect([engine.playing, engine.heardFrame]).toEqual([true, begin * 4]);
    engine.tailSeconds = 2;
    await jest.advanceTimersByTimeAsync(300);
    expect([engine.playing, engine.heardFrame]).toEqual([false, begin]);
  });
});

describe('saving', () => {
  it('waits for a pause, saves the last state, and follows the revision', async () => {
    const { studio } = open();
    studio.editor.perform(setMix(40), 'Mix');
    studio.editor.perform(setMix(50), 'Mix');
    expect([studio.state.saveState, mocked.saveSession.mock.calls.length]).toEqual(['waiting', 0]);
    await jest.advanceTimersByTimeAsync(600);
    expect(mocked.saveSession).toHaveBeenCalledTimes(1);
    const [id, body] = mocked.saveSession.mock.calls[0]!;
    expect([
      id,
      body.revision,
      (body.changes![0] as { value: { mix: number } }).value.mix,
      body.history.append.length,
    ]).toEqual(['s1', 1, 50, 2]);
    expect(studio.state.saveState).toBe('saved');
    studio.editor.perform(setMix(60), 'Mix');
    await jest.advanceTimersByTimeAsync(600);
    expect(mocked.saveSession.mock.calls[1]![1]).toMatchObject({ revision: 2, history: { keep: 2, cursor: 3 } });
  });

  it('tries again until the server is back, and says so once', async () => {
    const { studio } = open();
    mocked.saveSession
      .mockRejectedValueOnce(new KinetikonError('database.failed', 'away'))
      .mockRejectedValueOnce(new KinetikonError('database.failed', 'away'));
    studio.editor.perform(setMix(40), 'Mix');
    await jest.advanceTimersByTimeAsync(700);
    expect([studio.state.saveState, studio.state.problems.length]).toEqual(['failing', 1]);
    await jest.advanceTimersByTimeAsync(3200);
    expect([studio.state.saveState, studio.state.problems.length]).toEqual(['failing', 1]);
    await jest.advanceTimersByTimeAsync(4000);
    expect([studio.state.saveState, studio.state.problems.length]).toEqual(['saved', 0]);
  });

  it('keeps both versions when another window saved in between', async () => {
    const { studio, moved } = open();
    mocked.saveSession.mockRejectedValueOnce(new KinetikonError('session.conflict', 'saved elsewhere'));
    mocked.createSession.mockImplementation(async (_name, { document: kept, history } = {}) => ({
      id: 's2',
      saveId: null,
      revision: 1,
      document: kept!,
      history: history!,
    }));
    studio.editor.perform(setMix(40), 'Mix');
    studio.editor.preview(setMix(50), 'Mix');
    await jest.advanceTimersByTimeAsync(700);
    expect(moved).toEqual(['s2']);
    studio.editor.preview(setMix(60), 'Mix');
    studio.editor.settle();
    await jest.advanceTimersByTimeAsync(700);
    expect(studio.state.saveState).toBe('saved');
    expect(mocked.saveSession.mock.calls.at(-1)![0]).toBe('s2');
    expect(studio.state.document.session.name).toBe('Quay, kept copy');
    expect(studio.state.problems[0]!.kept).toContain('Both versions are kept');
  });
});

describe('messages', () => {
  it('leave when their matter is settled, and no other', async () => {
    const { studio } = open();
    const messages = () => studio.state.problems.map(({ message }) => message);
    mocked.saveSession.mockRejectedValueOnce(new KinetikonError('database.failed', 'away'));
    studio.editor.perform(setMix(40), 'Mix');
    await jest.advanceTimersByTimeAsync(700);
    studio.editor.perform(setMix(140), 'Mix');
    studio.editor.perform(setMix(150), 'Mix');
    expect(messages()).toEqual(['away', expect.stringContaining('not 150')]);
    studio.editor.perform(setMix(45), 'Mix');
    expect(messages()).toEqual(['away']);
    await jest.advanceTimersByTimeAsync(8000);
    expect(messages()).toEqual([]);
  });

  it('about a file leave when it comes in after all', async () => {
    const { studio } = open();
    const file = (name: string) =>
      Object.assign(new File([new Uint8Array(8)], name), {
        arrayBuffer: async () => new ArrayBuffer(8),
        slice: () => ({ arrayBuffer: async () => new ArrayBuffer(8) }),
      });
    mocked.uploadAsset.mockRejectedValueOnce(new KinetikonError('file.broken', 'lost on the way'));
    await studio.imports.importFiles([file('voice.wav')], 0, null);
    expect(studio.state.problems).toHaveLength(1);
    await studio.imports.importFiles([file('voice.wav')], 0, null);
    expect(studio.state.problems).toEqual([]);
  });
});

/** Waits until it is asked how files come in. */
async function asked(studio: Studio): Promise<void> {
  for (let n = 0; n < 1000 && !studio.state.arrival; n++) await Promise.resolve();
}

describe('bringing sound in', () => {
  const file = (name: string) =>
    Object.assign(new File([new Uint8Array(8)], name), {
      arrayBuffer: async () => new ArrayBuffer(8),
      slice: () => ({ arrayBuffer: async () => new ArrayBuffer(8) }),
    });

  it('makes a track and a clip in one step, and hands the sound to the engine', async () => {
    const { studio, engine } = open();
    await studio.imports.importFiles([file('voice.wav')], 3, null);
    const { clips, tracks, session } = studio.state.document;
    const clip = Object.values(clips)[0]!;
    expect(clip).toMatchObject({ name: 'voice', startBeat: 3, lengthSeconds: 2, source: { assetId: SOUND } });
    expect(tracks[session.trackIds[1]!]!.name).toBe('voice');
    expect([engine.sounds, studio.state.jobs, studio.state.stripId]).toEqual([[SOUND], [], clip.trackId]);
    studio.editor.undo();
    expect([Object.keys(studio.state.document.clips), studio.state.document.session.trackIds]).toEqual([[], ['voice']]);
  });

  it('puts it on the track it was dropped on', async () => {
    const { studio } = open();
    await studio.imports.importFiles([file('voice.wav')], 0, 'voice');
    expect(Object.values(studio.state.document.clips)[0]!.trackId).toBe('voice');
    const { signal } = new AbortController();
    expect((await studio.sounds.allPlayed(signal)).map((sound) => sound.assetId)).toEqual([SOUND]);
  });

  it('is waited for by work that needs it, which can be given up, and is told when it cannot be had', async () => {
    const { studio } = open();
    let arrive: (bytes: ArrayBuffer) => void = () => {};
    mocked.fetchAsset.mockImplementation(() => new Promise((resolve) => (arrive = resolve)));
    studio.editor.perform({ type: 'asset.add', asset }, 'Bring in');
    studio.imports.placeSound(asset, 0, 'voice');
    const patience = new AbortController();
    const [given, waiting] = [
      studio.sounds.allPlayed(patience.signal),
      studio.sounds.allPlayed(new AbortController().signal),
    ];
    patience.abort();
    await expect(given).rejects.toMatchObject({ code: 'work.cancelled' });
    arrive(new ArrayBuffer(4));
    expect((await waiting).map((sound) => sound.assetId)).toEqual([SOUND]);

    const { studio: without } = open();
    mocked.fetchAsset.mockRejectedValue(new KinetikonError('asset.missing', 'gone'));
    without.editor.perform({ type: 'asset.add', asset }, 'Bring in');
    without.imports.placeSound(asset, 0, 'voice');
    await expect(without.sounds.allPlayed(new AbortController().signal)).rejects.toThrow(
      'voice.wav could not be loaded',
    );
  });

  it('reports a broken file, keeps the rest, and goes on with the next', async () => {
    const { studio } = open();
    const done = studio.imports.importFiles([file('torn.wav'), file('voice.wav')], 0, null);
    await asked(studio);
    studio.state.arrival!.answer({ placing: 'tracks', heard: new Map() });
    await done;
    expect(studio.state.problems.map((problem) => problem.message)).toEqual(['torn.wav: cut short']);
    expect(Object.keys(studio.state.document.clips)).toHaveLength(1);
    expect(mocked.uploadAsset).toHaveBeenCalledTimes(1);
  });

  it('reads a long one by pages, lets it go with its clip, and decodes it for work that needs all of it', async () => {
    const { studio, engine } = open();
    const long = { ...asset, frames: 48000 * 100 };
    mocked.fetchAsset.mockResolvedValue(new ArrayBuffer(4));
    studio.imports.placeSound(long, 0, 'voice');
    for (let n = 0; n < 50; n++) await Promise.resolve();
    expect([mockPages.opened, engine.sounds]).toEqual([[SOUND], [SOUND]]);
    expect(mocked.fetchAsset).not.toHaveBeenCalled();
    expect(studio.sounds.get(SOUND)).toBeUndefined();
    studio.editor.perform({ type: 'clip.remove', ids: Object.keys(studio.state.document.clips) }, 'Remove');
    expect([mockPages.closed, engine.dropped]).toEqual([[SOUND], [SOUND]]);
    studio.editor.undo();
    for (let n = 0; n < 50; n++) await Promise.resolve();
    expect(mockPages.opened).toEqual([SOUND, SOUND]);
    const [whole] = await studio.sounds.samplesOf([SOUND], new AbortController().signal);
    expect(whole).toMatchObject({ assetId: SOUND, left: new Float32Array(4) });
    expect(mocked.fetchAsset).toHaveBeenCalledTimes(1);
  });

  it('jumps at once where everything is there, and else as soon as it is, to the last place alone', async () => {
    const { studio, engine } = open();
    await studio.transport.play();
    studio.transport.seekBeat(4);
    expect(studio.transport.heardBeat).toBeCloseTo(4, 9);
    mockPages.ready = false;
    studio.transport.seekBeat(8);
    studio.transport.seekBeat(6);
    expect(studio.transport.heardBeat).toBeCloseTo(4, 9);
    for (let n = 0; n < 20; n++) await Promise.resolve();
    expect(studio.transport.heardBeat).toBeCloseTo(6, 9);
    expect(mockPages.reached).toHaveLength(2);
    mockPages.ready = true;
    studio.transport.stop();
    expect(engine.playing).toBe(false);
  });

  it('lets sounds go that nothing uses, the oldest first, and loads them again after Undo', async () => {
    const { studio, engine } = open();
    const sound = new Float32Array(6 * 1024 * 1024);
    const ids = ['d', 'e', 'f', '9'].map((letter) => letter.repeat(64));
    mocked.fetchAsset.mockResolvedValue(new ArrayBuffer(4));
    for (const id of ids) {
      await studio.sounds.add({ id }, { left: sound.slice(), right: sound });
      studio.imports.placeSound({ ...asset, id }, 0, 'voice');
    }
    expect(engine.dropped).toEqual([]);
    const [first, second, third] = Object.keys(studio.state.document.clips);
    studio.editor.perform({ type: 'clip.remove', ids: [first!, second!, third!] }, 'Remove');
    // 48 MB each, of which 64 are kept.
    expect(engine.dropped).toEqual([ids[0], ids[1]]);
    studio.editor.undo();
    for (let n = 0; n < 50; n++) await Promise.resolve();
    expect(mocked.fetchAsset).toHaveBeenCalledTimes(2);
    expect(engine.sounds.filter((id) => id === ids[0])).toHaveLength(2);
  });

  describe('several at once', () => {
    const told = (startSeconds: number): FileAbout => ({ channels: 1, speakers: null, told: { startSeconds } });
    const three = () => ['a.wav', 'b.wav', 'c.wav'].map(file);
    const clipsOf = (studio: Studio) =>
      Object.values(studio.state.document.clips)
        .map(({ name, startBeat, trackId }) => ({ name, startBeat, trackId }))
        .sort((a, b) => (a.name < b.name ? -1 : 1));

    beforeEach(() => {
      mocked.uploadAsset.mockImplementation(async ({ name }) => ({ ...asset, id: name[0]!.repeat(64), name }));
      three().forEach(({ name }, n) => mockTold.set(name, told([3610, 3600, 3602][n]!)));
    });
    afterEach(() => mockTold.clear());

    it('in a row on the track that they were dropped on', async () => {
      const { studio } = open();
      const done = studio.imports.importFiles(three(), 3, 'voice');
      await asked(studio);
      expect(studio.state.arrival).toMatchObject({ trackName: 'Lamp keeper', unplaced: [] });
      studio.state.arrival!.answer({ placing: 'row', heard: new Map() });
      await done;
      const beats = (2 * studio.state.document.session.tempoBpm) / 60;
      expect(clipsOf(studio)).toEqual(
        ['a', 'b', 'c'].map((name, n) => ({ name, startBeat: 3 + n * beats, trackId: 'voice' })),
      );
    });

    it('at their own times from the place of the drop on, each on a track of its own', async () => {
      const { studio } = open();
      const done = studio.imports.importFiles(three(), 4, 'voice');
      await asked(studio);
      studio.state.arrival!.answer({ placing: 'times', heard: new Map() });
      await done;
      const perSecond = studio.state.document.session.tempoBpm / 60;
      expect(clipsOf(studio).map(({ startBeat }) => startBeat)).toEqual([4 + 10 * perSecond, 4, 4 + 2 * perSecond]);
      expect(new Set(clipsOf(studio).map(({ trackId }) => trackId)).size).toBe(3);
      expect(Object.values(studio.state.document.assets)[0]!.about).toEqual({ startSeconds: 3610 });
    });

    it('are left where they are, when nobody wants them or others come', async () => {
      const { studio } = open();
      const first = studio.imports.importFiles(three(), 0, null);
      await asked(studio);
      const second = studio.imports.importFiles(three(), 0, null);
      await first;
      await asked(studio);
      studio.state.arrival!.answer(null);
      await second;
      expect([studio.state.document.clips, studio.state.arrival]).toEqual([{}, null]);
    });

    it('says so when nothing was dropped', async () => {
      const { studio } = open();
      await studio.imports.importFiles([], 0, null);
      expect(studio.state.problems[0]!.message).toBe('There is no sound file in it.');
    });
  });

  describe('more than two channels', () => {
    const quad = (speakers: number | null): FileAbout => ({ channels: 4, speakers, told: {} });
    const four = { ...asset, channels: 4 };
    beforeEach(() => mocked.uploadAsset.mockResolvedValue(four));
    afterEach(() => mockTold.clear());

    it('are folded by the places that the file tells', async () => {
      mockTold.set('quad.wav', quad(0x33));
      const { studio, engine } = open();
      await studio.imports.importFiles([file('quad.wav')], 0, null);
      expect(studio.state.document.assets[SOUND]!.heard).toBe('fold-51');
      expect(engine.sounds).toEqual([`${SOUND}:fold-51`]);
    });

    it('are asked about where it tells none, and the choice can be changed and undone', async () => {
      mockTold.set('four.wav', quad(null));
      const { studio, engine } = open();
      const done = studio.imports.importFiles([file('four.wav')], 0, null);
      await asked(studio);
      expect(studio.state.arrival!.unplaced).toEqual([4]);
      studio.state.arrival!.answer({ placing: 'tracks', heard: new Map([[4, 'take-3-4']]) });
      await done;
      mocked.fetchAsset.mockResolvedValue(new ArrayBuffer(4));
      studio.editor.perform({ type: 'asset.hear', id: SOUND, heard: 'take-1' }, 'Channels');
      for (let n = 0; n < 100; n++) await Promise.resolve();
      expect(engine.sounds).toEqual([`${SOUND}:take-3-4`, `${SOUND}:take-1`]);
      studio.editor.undo();
      expect(studio.state.document.assets[SOUND]!.heard).toBe('take-3-4');
      expect(studio.editor.perform({ type: 'asset.hear', id: SOUND, heard: 'take-5' }, 'Channels')).toBe(false);
    });

    it('an impulse has all of them, and once it lies on a track, what was chosen for that', async () => {
      mockTold.set('quad.wav', quad(0x33));
      const { studio, engine } = open();
      const taken = await studio.imports.takeIn(file('quad.wav'), new AbortController().signal, () => {});
      studio.editor.perform({ type: 'asset.add', asset: taken }, 'Impulse');
      expect([taken.heard, engine.sounds]).toEqual([undefined, [SOUND]]);
      await studio.imports.importFiles([file('quad.wav')], 0, null);
      expect(studio.state.document.assets[SOUND]!.heard).toBe('fold-51');
    });
  });
});
