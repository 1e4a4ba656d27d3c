import type { Kernel } from '../effects/kernel';
import type { PlanNote } from './plan';

/**
 * Tells a kernel of its notes as their frames come. After a jump, a start or a change of the notes, those end that are not
 * to sound there, and those begin that are under way.
 */
export class NotePlayer {
  private notes: readonly PlanNote[] = [];
  /** Notes that sound, in the order of their beginnings. */
  private readonly sounding: PlanNote[] = [];
  /** First note that has not begun before `expected`. */
  private next = 0;
  private expected = NaN;

  constructor(private readonly kernel: Kernel) {}

  get idle(): boolean {
    return this.notes.length === 0 && this.sounding.length === 0;
  }

  /** @param notes by their beginnings */
  setNotes(notes: readonly PlanNote[]): void {
    if (notes === this.notes) return;
    this.notes = notes;
    this.expected = NaN;
  }

  /** Lets all notes end; the next start begins those that are under way there. */
  stop(): void {
    for (const { key } of this.sounding) this.kernel.handleEvent?.({ kind: 'noteOff', key }, 0);
    this.sounding.length = 0;
    this.expected = NaN;
  }

  /** Tells what happens in `count` frames from a frame of the session on. */
  play(frame: number, count: number): void {
    if (frame !== this.expected) this.jump(frame);
    const end = frame + count;
    const { notes, sounding } = this;
    for (let n = 0; n < sounding.length; n++) {
      const note = sounding[n]!;
      const at = note.startFrame + note.lengthFrames;
      if (at >= end) continue;
      sounding.copyWithin(n, n + 1);
      sounding.length--;
      n--;
      this.kernel.handleEvent?.({ kind: 'noteOff', key: note.key }, Math.max(0, at - frame));
    }
    for (; this.next < notes.length && notes[this.next]!.startFrame < end; this.next++) {
      const note = notes[this.next]!;
      this.begin(note, note.startFrame - frame);
      const at = note.startFrame + note.lengthFrames;
      if (at >= end) sounding.push(note);
      else this.kernel.handleEvent?.({ kind: 'noteOff', key: note.key }, at - frame);
    }
    this.expected = end;
  }

  private begin({ key, velocity }: PlanNote, offset: number): void {
    this.kernel.handleEvent?.({ kind: 'noteOn', key, velocity }, offset);
  }

  private jump(frame: number): void {
    const { notes, sounding } = this;
    const lasts = ({ startFrame, lengthFrames }: PlanNote) => startFrame < frame && startFrame + lengthFrames > frame;
    // A note that goes on over a change of others is left alone.
    const before = sounding.splice(0);
    this.next = notes.findIndex(({ startFrame }) => startFrame >= frame);
    if (this.next < 0) this.next = notes.length;
    for (const note of notes) if (lasts(note)) sounding.push(note);
    const same = (a: PlanNote, b: PlanNote) => a.key === b.key && a.startFrame === b.startFrame;
    for (const note of before) {
      if (!sounding.some((one) => same(one, note))) this.kernel.handleEvent?.({ kind: 'noteOff', key: note.key }, 0);
    }
    for (const note of sounding) if (!before.some((one) => same(one, note))) this.begin(note, 0);
  }
}
