import { KinetikonError } from '@/core/errors';
import { effectById } from '@/core/effects/registry';
import { defaultValues, type EffectSpec } from '@/core/effects/spec';
import type { SoundSetting } from '@/core/effects/settings';
import type { ParameterValues } from '@/core/effects/values';
import type { Command } from '@/core/session/commands';
import { secondsOf } from '@/core/session/records/sounds';
import type { Insert } from '@/core/session/records/inserts';
import type { Studio } from './studio';

/** Edits that a sound had when another was chosen, by effect and sound. */
const edited = new WeakMap<Studio, Map<string, ParameterValues>>();

/** Values that are worked into the sound of an effect. */
const editsOf = (spec: EffectSpec, values: ParameterValues): ParameterValues =>
  Object.fromEntries((spec.prepares?.from ?? []).map((id) => [id, values[id]!]));

/**
 * Gives an effect another sound to work with. Edits belong to their sound: the new one comes as it is, or as it was left
 * when it was chosen before.
 * @param first what has to be done before, as adding the sound to the session
 * @returns whether it was done
 */
export function chooseSound(
  studio: Studio,
  insert: Insert,
  setting: SoundSetting,
  sound: { readonly id: string; readonly name: string },
  first: readonly Command[] = [],
): boolean {
  const spec = effectById(insert.effect);
  const values = { ...defaultValues(spec), ...insert.values };
  if (values[setting.id] === sound.id) return true;
  const known = edited.get(studio) ?? new Map<string, ParameterValues>();
  edited.set(studio, known);
  known.set(`${insert.id} ${String(values[setting.id])}`, editsOf(spec, values));
  const edits = known.get(`${insert.id} ${sound.id}`) ?? editsOf(spec, defaultValues(spec));
  const set: Command = { type: 'insert.set', id: insert.id, values: { ...edits, [setting.id]: sound.id } };
  return studio.editor.perform({ type: 'all', commands: [...first, set] }, `${spec.name}: ${sound.name}`);
}

/** Takes a file in as the sound of an effect. */
export async function bringInSound(
  studio: Studio,
  insertId: string,
  setting: SoundSetting,
  file: File,
): Promise<boolean> {
  const done = await studio.jobs.run(`Bringing in ${file.name}`, async ({ signal, progress }) => {
    const { file: whole } = await studio.imports.unpacked(file, signal, (done) => progress(done / 2));
    const asset = await studio.imports.takeIn(whole, signal, progress);
    const seconds = secondsOf(asset);
    if (seconds > setting.longestSeconds) {
      throw new KinetikonError(
        'impulse.bad',
        `${setting.name} takes up to ${setting.longestSeconds} s, and ${file.name} has ${seconds.toFixed(1)} s.`,
        { kept: 'Nothing was changed.', next: 'Cut it to its decay first.' },
      );
    }
    const insert = studio.state.document.inserts[insertId];
    return (
      insert !== undefined && chooseSound(studio, insert, setting, asset, [{ type: 'asset.add', asset: { ...asset } }])
    );
  });
  return done === true;
}
