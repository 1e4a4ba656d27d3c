import { specOf, type EffectId } from '../effects/registry';
import { presetSpace } from '../swells/makeSwell';
import { applyCommand } from './commands';
import { printWork } from './printing';
import { newClip, newDocument } from './records/factories';
import type { PrintRecipe } from './records/prints';

const SOUND = 'a'.repeat(64);
const { document } = applyCommand(
  newDocument('Prints'),
  {
    type: 'all',
    commands: [
      { type: 'asset.add', asset: { id: SOUND, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } },
      ...(['voice', 'harp'] as const).map((id) => ({ type: 'track.add' as const, id, name: id })),
      { type: 'insert.add', stripId: 'voice', id: 'room', effect: 'reverb', index: 0 },
      { type: 'insert.add', stripId: 'harp', id: 'turn', effect: 'flanger', index: 0 },
      {
        type: 'clip.add',
        clip: newClip({
          id: 'word',
          trackId: 'voice',
          source: { kind: 'sound', assetId: SOUND },
          name: 'Word',
          startBeat: 4,
          lengthSeconds: 4,
        }),
      },
    ],
  },
  '',
);

const RECIPES: Record<string, PrintRecipe> = {
  voice: { kind: 'strip', stripId: 'voice' },
  harp: { kind: 'strip', stripId: 'harp' },
  swell: {
    kind: 'swell',
    clipId: 'word',
    landSeconds: 1,
    space: presetSpace('reverb', 'plate'),
    values: {},
  },
};

/** Prints that are out of date once an effect has another version. */
function staleWith(id: EffectId): string[] {
  const prints = (): [string, string][] =>
    Object.entries(RECIPES).map(([name, recipe]) => [name, printWork(document, { recipe })!.fingerprint]);
  const before = prints();
  const spec = specOf(id) as { version?: number };
  const { version } = spec;
  spec.version = (version ?? 1) + 1;
  const after = new Map(prints());
  if (version === undefined) delete spec.version;
  else spec.version = version;
  expect(prints()).toEqual(before);
  return before.flatMap(([name, fingerprint]) => (after.get(name) === fingerprint ? [] : [name]));
}

test('a new version of an effect makes those prints stale that use it, and no others', () => {
  expect(staleWith('reverb')).toEqual(['voice', 'swell']);
  expect(staleWith('flanger')).toEqual(['harp']);
  expect(staleWith('delay')).toEqual([]);
});
