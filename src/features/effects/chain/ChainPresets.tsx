'use client';

import { effectById } from '@/core/effects/registry';
import { defaultValues } from '@/core/effects/spec';
import type { PresetFile } from '@/core/formats/preset';
import { CHAIN_PRESETS } from '@/core/session/chainPresets';
import { stripOf } from '@/core/session/records/queries';
import type { Insert } from '@/core/session/records/inserts';
import { newId } from '../../session/newId';
import { useStudio } from '../../session/StudioContext';
import { PresetPanel } from '../PresetPanel';

/** Presets for all effects of a strip at once. */
export function ChainPresets({ stripId }: { stripId: string }) {
  const studio = useStudio();
  const audition = (name: string, effects: readonly Partial<Insert>[]) => {
    const inserts = effects.map(({ effect, values, bypass }): Insert => ({
      id: newId(),
      effect: effect!,
      bypass: bypass ?? false,
      values: { ...defaultValues(effectById(effect!)), ...values },
      inputs: {},
      notesFrom: null,
    }));
    studio.editor.preview({ type: 'chain.replace', stripId, inserts }, `Chain: ${name}`);
  };
  const now = (): PresetFile['effects'] => {
    const { document } = studio.state;
    return stripOf(document, stripId)!.insertIds.map((id) => {
      const { effect, bypass, values } = document.inserts[id]!;
      return { effect, bypass, values };
    });
  };
  return (
    <PresetPanel
      label="Presets for the whole chain"
      word="chain"
      variant="plain"
      kind="chain"
      shipped={CHAIN_PRESETS.map((preset) => ({
        id: `factory/chain/${preset.id}`,
        name: preset.name,
        tags: [preset.purpose],
        saved: null,
        audition: () => audition(preset.name, preset.effects),
      }))}
      fits={(preset) => preset.kind === 'chain'}
      audition={(preset) => audition(preset.name, preset.effects)}
      now={now}
    />
  );
}
