import type { KernelEvent } from '../kernel';

const MOST = 8192;

/** Queued changes: parameters and notes wait here for the delayed sound that they belong to. */
export class DelayedChanges {
  private readonly at = new Float64Array(MOST);
  private readonly index = new Int32Array(MOST);
  private readonly value = new Float64Array(MOST);
  private readonly frames = new Float64Array(MOST);
  private readonly events: (KernelEvent | null)[] = new Array<KernelEvent | null>(MOST).fill(null);
  private first = 0;
  private count = 0;

  clear(): void {
    this.count = 0;
  }

  /** @param frame from which on it counts; times never go back */
  addParameter(frame: number, index: number, value: number, frames: number): void {
    const place = this.take(frame);
    this.index[place] = index;
    this.value[place] = value;
    this.frames[place] = frames;
    this.events[place] = null;
  }

  addEvent(frame: number, event: KernelEvent): void {
    this.events[this.take(frame)] = event;
  }

  private take(frame: number): number {
    // When there are too many the oldest gives way: what comes later says more.
    if (this.count === MOST) {
      this.first = (this.first + 1) % MOST;
      this.count--;
    }
    const place = (this.first + this.count++) % MOST;
    this.at[place] = frame;
    return place;
  }

  /** Hands over all that counts before a frame, in its order. */
  applyUntil(
    frame: number,
    parameter: (index: number, value: number, frames: number) => void,
    event: (event: KernelEvent) => void,
  ): void {
    while (this.count > 0 && this.at[this.first]! < frame) {
      const place = this.first;
      this.first = (place + 1) % MOST;
      this.count--;
      const one = this.events[place]!;
      if (one) event(one);
      else parameter(this.index[place]!, this.value[place]!, this.frames[place]!);
    }
  }
}
