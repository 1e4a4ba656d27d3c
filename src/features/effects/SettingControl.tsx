'use client';

import { Dices } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { findEffect } from '@/core/effects/registry';
import { describeSetting, HIGHEST_SEED, type Setting, type SoundSetting } from '@/core/effects/settings';
import type { ParameterValue } from '@/core/effects/spec';
import { chooseSound } from '../session/soundChoice';
import { useStudio, useStudioState } from '../session/StudioContext';
import { EditableText } from '../ui/EditableText';

const WIDTHS = { octaves: 260, path: 260, notes: 160, seed: 56 } as const;

/** A setting, which cannot be automated: typed over, or drawn anew for a random seed. */
export function SettingControl({ insertId, setting }: { readonly insertId: string; readonly setting: Setting }) {
  const studio = useStudio();
  const effect = useStudioState(({ document }) => findEffect(document.inserts[insertId]!.effect)!.name);
  const value = useStudioState(({ document }) => document.inserts[insertId]!.values[setting.id] ?? setting.default);
  const set = (next: ParameterValue) =>
    studio.editor.perform(
      { type: 'insert.set', id: insertId, values: { [setting.id]: next } },
      `${effect}: ${setting.name}`,
    );
  if (setting.kind === 'sound')
    return (
      <SoundChoice
        setting={setting}
        value={String(value)}
        label={`${effect} ${setting.name.toLowerCase()}`}
        onChosen={(sound) => chooseSound(studio, studio.state.document.inserts[insertId]!, setting, sound)}
      />
    );
  return (
    <div className="setting" data-help={`${setting.help} Takes ${describeSetting(setting)}.`}>
      <span>{setting.name}</span>
      <EditableText
        label={`${effect} ${setting.name.toLowerCase()}`}
        text={String(value)}
        width={WIDTHS[setting.kind]}
        onTyped={set}
      />
      {setting.kind === 'seed' && (
        <Button
          variant="icon"
          aria-label={`Another ${setting.name.toLowerCase()}`}
          onClick={() => set(crypto.getRandomValues(new Uint16Array(1))[0]! % (HIGHEST_SEED + 1))}
        >
          <Dices size={14} aria-hidden="true" />
        </Button>
      )}
    </div>
  );
}

/** One of the sounds that ship with an effect, or one of the session's that is short enough. */
function SoundChoice(props: {
  readonly setting: SoundSetting;
  readonly value: string;
  readonly label: string;
  readonly onChosen: (sound: { readonly id: string; readonly name: string }) => void;
}) {
  const { setting, value, label, onChosen } = props;
  const sounds = useStudioState(({ document }) =>
    Object.values(document.assets).filter(
      ({ frames, sampleRateHz }) => frames / sampleRateHz <= setting.longestSeconds,
    ),
  );
  const choose = (id: string) => {
    const chosen = [...setting.shipped, ...sounds].find((one) => one.id === id);
    if (chosen) onChosen(chosen);
  };
  return (
    <label className="choice" data-help={setting.help}>
      <span>{setting.name}</span>
      <Form.Select aria-label={label} value={value} onChange={(event) => choose(event.target.value)}>
        {setting.shipped.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
        {sounds.length > 0 && (
          <optgroup label="Sounds of this session">
            {sounds.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </optgroup>
        )}
      </Form.Select>
    </label>
  );
}
