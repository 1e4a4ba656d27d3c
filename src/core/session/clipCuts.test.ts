import { SeededRandom } from '../math/random';
import {
  clipsBetween,
  crossfaded,
  fadedTogether,
  gapsFilled,
  joined,
  nudged,
  overlaps,
  repeatedTo,
  slipped,
  splitAtPlaces,
  trimmedTo,
} from './clipCuts';
import { applyCommand, type Command } from './commands';
import { placeInSound } from './prints';
import type { Clip } from './records/clips';
import type { SessionDocument } from './records/document';
import { newClip, newDocument, newTrack } from './records/factories';
import { endBeatOf } from './records/queries';

const SOUND_SECONDS = 20;
const ASSET = 'a'.repeat(64);
const BEAT = 0.5;

/** A session at 120 BPM with two tracks and no clip. */
function empty(): SessionDocument {
  const document = newDocument('Cuts');
  document.session.tempoBpm = 60 / BEAT;
  for (const id of ['one', 'two']) {
    document.tracks[id] = newTrack(id, id);
    document.session.trackIds.push(id);
  }
  const frames = SOUND_SECONDS * 48000;
  document.assets[ASSET] = { id: ASSET, name: 'voice.wav', frames, sampleRateHz: 48000, channels: 1 };
  return document;
}

function withClip(document: SessionDocument, id: string, more: Partial<Clip> = {}): SessionDocument {
  const source = { kind: 'sound', assetId: ASSET } as const;
  const base = newClip({ id, trackId: 'one', source, name: id, startBeat: 4, lengthSeconds: 4 });
  return { ...document, clips: { ...document.clips, [id]: { ...base, offsetSeconds: 6, ...more } } };
}

const done = (document: SessionDocument, command: Command) => applyCommand(document, command, 'Test').document;

/** Places of the sounds that play on a track at a beat, in seconds. */
const heard = (document: SessionDocument, trackId: string, beat: number) =>
  Object.values(document.clips)
    .filter((clip) => clip.trackId === trackId && clip.startBeat <= beat && endBeatOf(document, clip) > beat)
    .map((clip) => placeInSound(clip, (beat - clip.startBeat) * BEAT))
    .sort((a, b) => a - b);

/** Beats that lie on no edge. */
const BEATS = Array.from({ length: 60 }, (_, n) => 0.43 + 0.37 * n);

const near = (left: readonly number[], right: readonly number[]) => {
  expect(left.length).toBe(right.length);
  left.forEach((one, n) => expect(one).toBeCloseTo(right[n]!, 9));
};

describe('cuts of clips', () => {
  const both = [false, true].map((reversed) => [reversed ? 'reversed' : 'forwards', { reversed }] as const);

  it.each(both)('split and joined again are the clip that it was, %s', (_, more) => {
    const fades = { fadeInSeconds: 0.2, fadeOutSeconds: 0.3, fadeOutShape: 'late' } as const;
    const before = withClip(empty(), 'a', { ...more, ...fades });
    const split = done(
      before,
      splitAtPlaces(before, ['a'], () => [7, 7.5, 9, 2, 18], 'n'),
    );
    expect(Object.keys(split.clips)).toHaveLength(4);
    for (const beat of BEATS) near(heard(split, 'one', beat), heard(before, 'one', beat));
    const again = done(split, joined(split, Object.keys(split.clips)));
    const [whole, ...others] = Object.values(again.clips);
    expect(others).toEqual([]);
    expect(whole!.lengthSeconds).toBeCloseTo(4, 9);
    expect(whole!.offsetSeconds).toBeCloseTo(6, 9);
    expect(whole).toMatchObject(fades);
  });

  it('are joined only where one goes on in the sound of another', () => {
    const document = withClip(withClip(empty(), 'a'), 'b', { startBeat: 12, offsetSeconds: 10 });
    expect(Object.keys(done(document, joined(document, ['a', 'b'])).clips)).toEqual(['a']);
    for (const other of [
      { offsetSeconds: 11 },
      { startBeat: 13 },
      { gainDb: -6 },
      { mute: true },
      { trackId: 'two' },
    ]) {
      const apart = withClip(document, 'b', { startBeat: 12, offsetSeconds: 10, ...other });
      expect(() => joined(apart, ['a', 'b'])).toThrow('go on in one another');
    }
  });

  it('are not split where no place lies within them', () => {
    const document = withClip(empty(), 'a');
    expect(() => splitAtPlaces(document, ['a'], () => [1, 6, 10, 19], 'n')).toThrow('no place to split at');
  });

  it('nudged go together and keep their distances, to the beginning at most', () => {
    const document = withClip(withClip(empty(), 'a'), 'b', { startBeat: 7.3, trackId: 'two' });
    const later = done(document, nudged(document, ['a', 'b'], 0.001));
    expect(later.clips.a!.startBeat).toBeCloseTo(4.002, 12);
    expect(later.clips.b!.startBeat).toBeCloseTo(7.302, 12);
    const first = done(document, nudged(document, ['a', 'b'], -9));
    expect(first.clips.a!.startBeat).toBe(0);
    expect(first.clips.b!.startBeat).toBeCloseTo(3.3, 12);
  });

  it.each(both)('slipped play another part where they stand, no farther than their sound reaches, %s', (_, more) => {
    const document = withClip(empty(), 'a', more);
    const later = done(document, slipped(document, ['a'], 1.5));
    // Everything is heard 1.5 s later.
    for (const beat of [7.1, 9.4, 11.9]) near(heard(later, 'one', beat), heard(document, 'one', beat - 1.5 / BEAT));
    expect(later.clips.a).toMatchObject({ startBeat: 4, lengthSeconds: 4 });
    for (const [seconds, forwards, reversed] of [
      [99, 0, 16],
      [-99, 16, 0],
    ] as const) {
      const { offsetSeconds } = done(document, slipped(document, ['a'], seconds)).clips.a!;
      expect(offsetSeconds).toBeCloseTo(more.reversed ? reversed : forwards, 9);
    }
  });

  it.each(both)('trimmed to a range leave what is heard in it alone, %s', (_, more) => {
    const document = withClip(withClip(empty(), 'a', more), 'out', { startBeat: 20 });
    const cut = done(document, trimmedTo(document, ['a', 'out'], 5.5, 9));
    for (const beat of BEATS.filter((one) => one < 20))
      near(heard(cut, 'one', beat), beat > 5.5 && beat < 9 ? heard(document, 'one', beat) : []);
    expect(cut.clips.out).toEqual(document.clips.out);
    expect(() => trimmedTo(document, ['out'], 5, 9)).toThrow('No chosen clip lies in the loop.');
  });

  it('are chosen by a range on all tracks, where a part of them lies in it', () => {
    const document = withClip(withClip(empty(), 'a'), 'b', { startBeat: 12, trackId: 'two' });
    expect(clipsBetween(document, 11.9, 12.1)).toEqual(['a', 'b']);
    expect(clipsBetween(document, 12, 14)).toEqual(['b']);
    expect(clipsBetween(document, 0, 4)).toEqual([]);
  });

  it('fill gaps up to the next clip, as far as their sound reaches', () => {
    const gap = withClip(withClip(empty(), 'a'), 'b', { startBeat: 15 });
    const filled = done(gap, gapsFilled(gap, ['a']));
    expect(endBeatOf(filled, filled.clips.a!)).toBeCloseTo(15, 9);
    for (const beat of BEATS.filter((one) => one < 12)) near(heard(filled, 'one', beat), heard(gap, 'one', beat));
    // Reversed it has 6 s before it in its sound; of 20 s it has 10 left forwards.
    const far = withClip(gap, 'b', { startBeat: 100 });
    expect(done(far, gapsFilled(far, ['a'])).clips.a!.lengthSeconds).toBeCloseTo(14, 9);
    const back = withClip(far, 'a', { reversed: true });
    expect(done(back, gapsFilled(back, ['a'])).clips.a).toMatchObject({ offsetSeconds: 0, lengthSeconds: 10 });
    expect(() => gapsFilled(gap, ['b'])).toThrow('no gap behind them');
  });

  it('crossfade where they overlap, and no longer than they are', () => {
    const document = withClip(withClip(empty(), 'a'), 'b', { startBeat: 10, fadeOutSeconds: 3.5 });
    expect(overlaps(document, ['a', 'b']).map(({ seconds }) => seconds)).toEqual([1]);
    const faded = done(document, crossfaded(document, ['a', 'b'], 'power'));
    expect(faded.clips.a).toMatchObject({ fadeOutSeconds: 1, fadeOutShape: 'early' });
    expect(faded.clips.b).toMatchObject({ fadeInSeconds: 1, fadeInShape: 'early', fadeOutSeconds: 3 });
    expect(done(document, crossfaded(document, ['a', 'b'], 'gain')).clips.a!.fadeOutShape).toBe('straight');
    const apart = withClip(document, 'b', { startBeat: 12 });
    expect(() => crossfaded(apart, ['a', 'b'], 'power')).toThrow('No chosen clips overlap.');
    const within = withClip(document, 'b', { startBeat: 5, lengthSeconds: 1 });
    expect(() => crossfaded(within, ['a', 'b'], 'power')).toThrow('No chosen clips overlap.');
  });

  it('take the same fades, each as long as it is at most', () => {
    const document = withClip(withClip(empty(), 'a'), 'b', { lengthSeconds: 0.3, fadeOutSeconds: 0.2 });
    const faded = done(document, fadedTogether(document, ['a', 'b'], { fadeInSeconds: 1, fadeInShape: 'late' }));
    expect(faded.clips.a).toMatchObject({ fadeInSeconds: 1, fadeInShape: 'late', fadeOutSeconds: 0 });
    expect(faded.clips.b).toMatchObject({ fadeInSeconds: 0.3, fadeOutSeconds: 0 });
  });

  it('repeat to the end of a range, the last cut there', () => {
    const document = withClip(withClip(empty(), 'a'), 'b', { startBeat: 10, trackId: 'two', lengthSeconds: 2 });
    const many = done(document, repeatedTo(document, ['a', 'b'], 33, 'n'));
    // Both together are ten beats long.
    for (const beat of BEATS.filter((one) => one > 4 && one < 14))
      for (const track of ['one', 'two'])
        for (const times of [1, 2, 3]) {
          const at = beat + 10 * times;
          near(heard(many, track, at), at < 33 ? heard(document, track, beat) : []);
        }
    expect(() => repeatedTo(document, ['a'], 11, 'n')).toThrow('ends before the chosen clips');
  });

  it('leave valid sessions behind, whatever is done in whatever order', () => {
    const random = new SeededRandom(12);
    const between = (from: number, to: number) => from + (to - from) * random.uniform();
    for (let round = 0; round < 30; round++) {
      let document = empty();
      for (let n = 0; n < 4; n++)
        document = withClip(document, `c${n}`, {
          trackId: random.uniform() < 0.5 ? 'one' : 'two',
          startBeat: between(0, 12),
          offsetSeconds: between(0, 10),
          lengthSeconds: between(0.02, 9),
          reversed: random.uniform() < 0.5,
          fadeInSeconds: 0.01,
        });
      for (let step = 0; step < 12; step++) {
        const ids = Object.keys(document.clips).filter(() => random.uniform() < 0.6);
        const acts: (() => Command)[] = [
          () => nudged(document, ids, between(-3, 3)),
          () => slipped(document, ids, between(-9, 9)),
          () => trimmedTo(document, ids, between(0, 6), between(6, 16)),
          () => splitAtPlaces(document, ids, () => [between(0, 20), between(0, 20)], `s${step}`),
          () => joined(document, ids),
          () => gapsFilled(document, ids),
          () => crossfaded(document, ids, 'gain'),
          () => repeatedTo(document, ids, between(10, 20), `r${step}`),
        ];
        if (ids.length === 0) continue;
        try {
          document = done(document, acts[Math.floor(between(0, acts.length))]!());
        } catch (error) {
          expect(error).toMatchObject({ code: 'session.command' });
        }
        for (const { offsetSeconds, lengthSeconds } of Object.values(document.clips))
          expect(offsetSeconds + lengthSeconds).toBeLessThan(SOUND_SECONDS + 1e-6);
      }
    }
  });
});
