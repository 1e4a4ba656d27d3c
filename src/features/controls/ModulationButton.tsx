'use client';

import { memo } from 'react';
import { Waves } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import type { Parameter } from '@/core/effects/spec';
import { MODULATOR_KINDS } from '@/core/session/records/modulators';
import {
  attachCommand,
  canMove,
  detachCommand,
  KIND_NAMES,
  newModulatorCommand,
  type Attached,
} from '../session/modulating';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { useAttached } from '../session/useRecords';

interface Props {
  readonly insertId: string;
  readonly parameter: Parameter;
  readonly label: string;
}

/** Lets a modulator move a parameter of an effect, or takes it off. */
export const ModulationButton = memo(function ModulationButton({ insertId, parameter, label }: Props) {
  const attached = useAttached(insertId, parameter.id) ?? [];
  const moved = attached.length > 0;
  const names = attached.map(({ modulator }) => modulator.name).join(', ');
  const word = moved ? `moved by ${names}` : 'move it with a modulator';
  return (
    <Dropdown align="end" className="ruler-modulation">
      <Dropdown.Toggle
        as="button"
        type="button"
        bsPrefix="modulation-toggle"
        className={`ruler-lane ${moved ? 'ruler-lane-on' : 'ruler-lane-none'}`}
        aria-label={`${label}: ${word}`}
        data-help={
          moved
            ? `Moved by ${names}`
            : 'Let a modulator move it: an oscillator, a follower, a pattern, chance or a hand'
        }
      >
        <Waves size={11} aria-hidden="true" />
      </Dropdown.Toggle>
      <Dropdown.Menu renderOnMount={false}>
        <ModulationMenu insertId={insertId} parameter={parameter} attached={attached} />
      </Dropdown.Menu>
    </Dropdown>
  );
});

/** Contents of the open menu. */
function ModulationMenu({ insertId, parameter, attached }: Omit<Props, 'label'> & { attached: readonly Attached[] }) {
  const studio = useStudio();
  const document = useStudioState(({ document }) => document);
  const free = Object.values(document.modulators).filter(
    (modulator) => !attached.some((one) => one.modulator.id === modulator.id) && canMove(document, modulator, insertId),
  );
  const open = (modulatorId: string) => studio.set({ drawer: 'modulators', modulatorId });
  return (
    <>
      {attached.map(({ modulator }) => (
        <div key={modulator.id} className="modulation-row">
          <Dropdown.Item as="button" type="button" onClick={() => open(modulator.id)}>
            {modulator.name}: settings
          </Dropdown.Item>
          <Dropdown.Item
            as="button"
            type="button"
            onClick={() =>
              studio.editor.perform(
                detachCommand(modulator, insertId, parameter.id),
                `Take ${modulator.name} off ${parameter.name}`,
              )
            }
          >
            Take {modulator.name} off
          </Dropdown.Item>
        </div>
      ))}
      {free.length > 0 && <Dropdown.Header>Move it with</Dropdown.Header>}
      {free.map((modulator) => (
        <Dropdown.Item
          key={modulator.id}
          as="button"
          type="button"
          onClick={() => {
            const command = attachCommand(modulator, insertId, parameter);
            if (studio.editor.perform(command, `${modulator.name} moves ${parameter.name}`)) open(modulator.id);
          }}
        >
          {modulator.name}
        </Dropdown.Item>
      ))}
      <Dropdown.Header>Move it with a new</Dropdown.Header>
      {MODULATOR_KINDS.map((kind) => (
        <Dropdown.Item
          key={kind}
          as="button"
          type="button"
          onClick={() => {
            const id = newId();
            const command = newModulatorCommand(document, kind, id, { target: { insertId, parameter } });
            if (studio.editor.perform(command, `${KIND_NAMES[kind]} moves ${parameter.name}`)) open(id);
          }}
        >
          {KIND_NAMES[kind]}
        </Dropdown.Item>
      ))}
    </>
  );
}
