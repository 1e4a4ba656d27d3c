import { LONGEST_TAIL_SECONDS } from '@/core/engine/plan';
import { endBeat } from '@/core/session/records/queries';
import { MAIN_ID } from '@/core/session/records/strips';
import type { EngineClient } from '@/runtime/client/engineClient';
import type { StudioState } from './state';

/** Peak below which the output is silent: -100 dBFS. */
const SILENCE = 1e-5;
/** Silence after which a tail counts as over, though its effects might sound on: longer than two echoes lie apart. */
const SILENT_SECONDS = 10;

/** The parts of the engine that tell whether anything sounds. */
export type SoundingEngine = Pick<EngineClient, 'level' | 'tailSeconds'>;

/**
 * Tells when playing is over: once the effects have rung out after the last clip, note or key, at most
 * `LONGEST_TAIL_SECONDS` later. Never while a loop is on or writing is armed, nor when playing began after the last sound.
 */
export class PlaybackEnd {
  private lastKeyBeat = -Infinity;
  /** Beat at which the silence began that lasts until now; null while something sounds. */
  private silentFrom: number | null = null;

  /** @param fromBeat where playing begins, or goes on after a seek */
  constructor(private fromBeat: number) {}

  moveTo(beat: number): void {
    this.fromBeat = beat;
    this.lastKeyBeat = -Infinity;
    this.silentFrom = null;
  }

  /** Keys count as notes until they are let go. */
  keysUntil(beat: number): void {
    this.lastKeyBeat = beat;
  }

  /** To be asked a few times a second while the session plays. @param beat the one that is heard */
  isOver(beat: number, { document, armed }: Pick<StudioState, 'document' | 'armed'>, engine: SoundingEngine): boolean {
    const { left, right } = engine.level(MAIN_ID);
    this.silentFrom = Math.max(left, right) < SILENCE ? (this.silentFrom ?? beat) : null;
    const { loopOn, tempoBpm } = document.session;
    const end = endBeat(document);
    if (armed || loopOn || this.fromBeat >= end) return false;
    const seconds = (beats: number) => (beats * 60) / tempoBpm;
    const lastBeat = Math.max(end, this.lastKeyBeat);
    const tail = Math.min(engine.tailSeconds, LONGEST_TAIL_SECONDS);
    const silent = this.silentFrom === null ? 0 : seconds(beat - Math.max(lastBeat, this.silentFrom));
    return seconds(beat - lastBeat) > tail || silent > SILENT_SECONDS;
  }
}
