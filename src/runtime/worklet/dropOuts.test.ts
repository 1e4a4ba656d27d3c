import { DropOuts } from './dropOuts';

/** Calls as a device makes them: buffers of some blocks at a time, in even time but for pauses. */
function play(drops: DropOuts, seconds: number, from: number, pauses: readonly [number, number][] = []): number {
  let clock = from;
  for (let at = 0; at < seconds; at += (8 * 128) / 48000) {
    for (const [when, long] of pauses) if (when >= at && when < at + (8 * 128) / 48000) clock += long;
    for (let block = 0; block < 8; block++) drops.take(Math.floor(clock * 1000), 128);
    clock += (8 * 128) / 48000;
  }
  return clock;
}

describe('drop-outs', () => {
  it('are none while the device is fed in time, however unevenly within its buffer', () => {
    const drops = new DropOuts(48000);
    play(drops, 60, 1000);
    expect(drops.count).toBe(0);
  });

  it('are counted one by one', () => {
    const drops = new DropOuts(48000);
    play(drops, 20, 1000, [
      [3, 0.06],
      [9, 0.3],
      [15, 0.05],
    ]);
    expect(drops.count).toBe(3);
  });

  it('are not counted when the context was held back for long', () => {
    const drops = new DropOuts(48000);
    const end = play(drops, 5, 1000);
    play(drops, 5, end + 40);
    expect(drops.count).toBe(0);
  });

  it('are not counted between two times of playing', () => {
    const drops = new DropOuts(48000);
    const end = play(drops, 5, 1000);
    drops.rest();
    play(drops, 5, end + 0.3);
    expect(drops.count).toBe(0);
  });
});
