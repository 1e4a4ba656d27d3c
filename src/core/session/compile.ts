import { effectById } from '../effects/registry';
import { resolveValues } from '../effects/resolve';
import type { Timing } from '../effects/noteValues';
import type { Plan, PlanInsert, PlanStrip } from '../engine/plan';
import { dbToGain } from '../math/elementary';
import { beatsPerBar, endBeat, type SessionDocument, type Track } from './records';

export function timingOf(document: SessionDocument): Timing {
  return { tempoBpm: document.session.tempoBpm, beatsPerBar: beatsPerBar(document.session) };
}

export function framesPerBeat(document: SessionDocument): number {
  return (document.session.sampleRateHz * 60) / document.session.tempoBpm;
}

const factor = (db: number) => (db <= -100 ? 0 : dbToGain(db));

/** The chain of a strip as the engine takes it. */
export function compileInserts(document: SessionDocument, insertIds: readonly string[]): PlanInsert[] {
  const timing = timingOf(document);
  return insertIds.map((id) => {
    const insert = document.inserts[id]!;
    return {
      id,
      effect: insert.effect,
      bypass: insert.bypass,
      values: resolveValues(effectById(insert.effect), insert.values, timing),
    };
  });
}

/** Turns a document into what the engine plays. */
export function compile(document: SessionDocument): Plan {
  const { session } = document;
  const perBeat = framesPerBeat(document);
  const anySolo = Object.values(document.tracks).some((track) => track.solo);
  const strip = (track: Track, audible: boolean): PlanStrip => ({
    id: track.id,
    inserts: compileInserts(document, track.insertIds),
    gain: factor(track.gainDb),
    pan: track.pan / 100,
    audible,
  });
  const frames = (seconds: number) => Math.round(seconds * session.sampleRateHz);
  return {
    sampleRate: session.sampleRateHz,
    framesPerBeat: perBeat,
    endFrame: Math.round(endBeat(document) * perBeat),
    loop: session.loopOn
      ? { startFrame: Math.round(session.loopStartBeat * perBeat), endFrame: Math.round(session.loopEndBeat * perBeat) }
      : null,
    tracks: session.trackIds.map((id) => {
      const track = document.tracks[id]!;
      return {
        ...strip(track, anySolo ? track.solo : !track.mute),
        clips: Object.values(document.clips)
          .filter((clip) => clip.trackId === id)
          .sort((a, b) => a.startBeat - b.startBeat || (a.id < b.id ? -1 : 1))
          .map((clip) => ({
            id: clip.id,
            assetId: clip.assetId,
            startFrame: Math.round(clip.startBeat * perBeat),
            offsetFrame: frames(clip.offsetSeconds),
            lengthFrames: frames(clip.lengthSeconds),
            gain: factor(clip.gainDb),
            fadeInFrames: frames(clip.fadeInSeconds),
            fadeOutFrames: frames(clip.fadeOutSeconds),
          })),
      };
    }),
    main: strip(document.main, !document.main.mute),
  };
}
