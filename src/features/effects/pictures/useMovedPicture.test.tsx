import { effectById } from '@/core/effects/registry';
import type { Command } from '@/core/session/commands';
import type { PlanInsert } from '@/core/engine/plan';
import { nextFrame, renderIn, testStudio, withEffect } from '../../../../test/support/studio';
import type { ChartLine } from '../../ui/Chart';
import { useMovedPicture } from './useMovedPicture';

const output = effectById('eq').parameters.findIndex(({ id }) => id === 'output');
const lane = {
  type: 'lane.add',
  lane: {
    id: 'lane',
    ownerId: 'one',
    parameter: 'output',
    on: true,
    points: [
      { beat: 0, value: 0, shape: 'straight', bend: 0 },
      { beat: 4, value: -12, shape: 'straight', bend: 0 },
    ],
    mirrorOf: null,
    mirrorAmount: 100,
  },
} satisfies Command;

function follow(commands: readonly Command[], effect = 'eq') {
  const asked: PlanInsert[] = [];
  const engine = { playing: true, heardFrame: 0, movedValue: () => null };
  const made = testStudio([...withEffect(effect), ...commands], {
    engine,
    sounds: { samplesFor: async () => [] },
    worker: {
      run: async ({ inserts }: { inserts: PlanInsert[] }) => {
        asked.push(inserts[0]!);
        const y = Float64Array.of(inserts[0]!.values[output]!, 1);
        return { kind: 'response', x: Float64Array.of(20, 20000), lines: [{ name: 'both sides', y }] };
      },
    },
  });
  let lines: readonly ChartLine[] = [];
  function Followed() {
    lines = useMovedPicture('one', effectById(effect).picture);
    return null;
  }
  renderIn(made.studio, <Followed />);
  return { asked, engine, lines: () => lines, studio: made.studio };
}

const turns = async (count: number) => {
  for (let n = 0; n < count; n++) await nextFrame();
};

describe('the picture of an effect that is moved', () => {
  it('is taken where its lane is, and goes when playing stops', async () => {
    const { asked, engine, lines, studio } = follow([lane]);
    const { sampleRateHz, tempoBpm } = studio.state.document.session;
    engine.heardFrame = Math.round((2 * 60 * sampleRateHz) / tempoBpm);
    await turns(8);
    expect(asked.at(-1)!.values[output]).toBeCloseTo(-6, 1);
    expect([asked.at(-1)!.curves, asked.at(-1)!.bypass]).toEqual([[], false]);
    expect(lines()[0]!.points[0]).toMatchObject({ x: 20 });
    expect(lines()[0]!.points[0]!.y).toBeCloseTo(-6, 1);
    engine.playing = false;
    await turns(12);
    expect(lines()[0]!.points).toEqual([]);
  });

  it('is not taken of what nothing moves, nor of what moves by itself', async () => {
    const still = follow([]);
    const depth = { ...lane.lane, parameter: 'depth', points: lane.lane.points.map((one) => ({ ...one, value: 40 })) };
    const walking = follow([{ type: 'lane.add', lane: depth }], 'autopan');
    await turns(6);
    expect([still.asked, walking.asked]).toEqual([[], []]);
  });
});
