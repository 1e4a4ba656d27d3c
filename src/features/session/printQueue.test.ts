import { KinetikonError } from '@/core/errors';
import { applyCommand, type Command } from '@/core/session/commands';
import { newDocument } from '@/core/session/records/factories';
import type { Asset } from '@/core/session/records/clips';
import { isFresh } from '@/core/session/printing';
import { PrintQueue, printState, type PrintHost } from './printQueue';
import { initialState, type StudioState } from './state';

const SOUND = 'a'.repeat(64);
const asset = (id: string): Asset => ({ id, name: 'a.wav', frames: 4800, sampleRateHz: 48000, channels: 1 });

/** A session with a frozen track that feeds a frozen return, both printed and then changed. */
function host(fails: Error | null = null) {
  const strip = (id: string) => ({ id: `${id}-print`, recipe: { kind: 'strip' as const, stripId: id } });
  const commands: Command[] = [
    { type: 'asset.add', asset: asset(SOUND) },
    { type: 'track.add', id: 'voice', name: 'Voice' },
    { type: 'return.add', id: 'echo', name: 'Echo', role: 'return' },
    {
      type: 'send.add',
      send: { id: 's', fromId: 'voice', toId: 'echo', gainDb: 0, tap: 'beforeFader', mute: false },
    },
    {
      type: 'clip.add',
      clip: {
        id: 'c',
        trackId: 'voice',
        source: { kind: 'sound', assetId: SOUND },
        name: 'a',
        startBeat: 0,
        offsetSeconds: 0,
        lengthSeconds: 0.1,
        gainDb: 0,
        fadeInSeconds: 0,
        fadeOutSeconds: 0,
        fadeInShape: 'smooth' as const,
        fadeOutShape: 'smooth' as const,
        reversed: false,
        mute: false,
      },
    },
    ...['voice', 'echo'].flatMap((id, n): Command[] => [
      { type: 'asset.add', asset: asset(String(n).repeat(64)) },
      {
        type: 'print.add',
        print: { ...strip(id), made: { assetId: String(n).repeat(64), fingerprint: 'old', landSeconds: 0 } },
      },
      { type: 'strip.set', id, values: { frozen: `${id}-print` } },
    ]),
  ];
  const { document } = applyCommand(newDocument('Prints'), { type: 'all', commands }, '');
  let state: StudioState = initialState({
    id: 'x',
    saveId: null,
    revision: 1,
    document,
    history: { past: [], future: [], base: 0 },
  });
  const made: string[] = [];
  const seen: string[][] = [];
  const problems: unknown[] = [];
  const it: PrintHost = {
    sessionId: 'x',
    get state() {
      return state;
    },
    set: (part) => {
      state = { ...state, ...part };
    },
    jobs: {
      track: (label, work) => {
        made.push(label);
        return work({ signal: new AbortController().signal, progress: () => {}, cancel: () => {} });
      },
    },
    sounds: { samplesOf: async () => [], playedOf: async () => [] },
    renderer: {
      run: (async () => {
        seen.push([...state.printing]);
        if (fails) throw fails;
        return { bytes: new Uint8Array(8), landSeconds: 0, overDb: 5.5 };
      }) as never,
    },
    imports: { takeIn: async () => asset(['e', 'f'][made.length - 1]!.repeat(64)) },
    messages: { report: (error) => problems.push(error) },
    editor: {
      record: (command) => {
        state = { ...state, document: applyCommand(state.document, command, '').document };
      },
    },
  };
  return { it, queue: new PrintQueue(it), made, seen, problems };
}

describe('the queue of prints', () => {
  it('makes those first that are part of another, one at a time, and leaves what is fresh', async () => {
    const { it: studio, queue, made, seen } = host();
    expect(printState(studio.state, 'echo-print')).toBe('stale');
    await Promise.all([queue.renew('echo-print'), queue.renew('voice-print')]);
    expect(made).toEqual(['Making Voice, frozen', 'Making Echo, frozen']);
    expect(seen).toEqual([['voice-print'], ['echo-print']]);
    for (const print of Object.values(studio.state.document.prints)) {
      expect(isFresh(studio.state.document, print)).toBe(true);
    }
    expect([printState(studio.state, 'echo-print'), studio.state.printing]).toEqual(['fresh', []]);
  });

  it('says when a print could not be made, until what it is made from changes', async () => {
    const { it: studio, queue, problems } = host(new Error('no room'));
    await queue.renew('voice-print');
    expect([problems.length, printState(studio.state, 'voice-print')]).toEqual([1, 'failed']);
    expect(studio.state.document.prints['voice-print']!.made!.fingerprint).toBe('old');
    studio.editor.record({ type: 'clip.set', id: 'c', values: { startBeat: 1 } });
    expect(printState(studio.state, 'voice-print')).toBe('stale');
  });

  it('has not failed when somebody gave it up', async () => {
    const { it: studio, queue } = host(new KinetikonError('work.cancelled', 'Cancelled.'));
    await queue.renew('voice-print');
    expect(printState(studio.state, 'voice-print')).toBe('stale');
  });

  it('goes on after a print that the session refuses, which has failed', async () => {
    const { it: studio, queue, problems } = host();
    const { record } = studio.editor;
    studio.editor.record = () => {
      throw new KinetikonError('session.command', 'Refused.');
    };
    await queue.renew('voice-print');
    expect([problems.length, printState(studio.state, 'voice-print')]).toEqual([1, 'failed']);
    studio.editor.record = record;
    await queue.renew('voice-print');
    expect(printState(studio.state, 'voice-print')).toBe('fresh');
  });

  it('does nothing for a print that has gone', async () => {
    const { queue, made } = host();
    await queue.renew('nobody');
    expect(made).toEqual([]);
  });
});
