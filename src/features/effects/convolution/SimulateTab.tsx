'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { SIMULATORS } from '@/core/effects/convolution/impulses/simulators';
import type { ParameterValue } from '@/core/effects/spec';
import { HIGHEST_SEED } from '@/core/effects/settings';
import { useTiming } from '../../session/useRecords';
import { runAlone } from '@/runtime/client/workerClient';
import { useStudioState } from '../../session/StudioContext';
import { Ruler } from '../../ui/Ruler';
import { TaskProgress } from '../../controls/TaskProgress';
import { useLongTask } from '../../session/useLongTask';

/** Works a place or a thing out that rings, by its own rulers. */
export function SimulateTab({ onMade }: { onMade: (name: string, bytes: Uint8Array) => Promise<void> }) {
  const timing = useTiming();
  const sampleRateHz = useStudioState(({ document }) => document.session.sampleRateHz);
  const task = useLongTask();
  const [simulator, setSimulator] = useState(SIMULATORS[0]!);
  const [values, setValues] = useState<Record<string, ParameterValue>>({});
  const [seed, setSeed] = useState(1);
  const [name, setName] = useState('');
  const all = { ...Object.fromEntries(simulator.parameters.map((one) => [one.id, one.default])), ...values };
  const set = (id: string, value: ParameterValue) => setValues((before) => ({ ...before, [id]: value }));
  const groups = [...new Set(simulator.parameters.map(({ group }) => group))];
  const make = async () => {
    const from = { kind: 'simulated' as const, simulator: simulator.id, values, seed };
    const made = await task.run((progress) => runAlone({ kind: 'impulse', from, sampleRateHz }, progress));
    if (made) await onMade(name.trim() || simulator.name, made.bytes);
  };
  return (
    <div className="workshop-tab">
      <div className="workshop-row">
        <Form.Select
          size="sm"
          aria-label="Kind"
          value={simulator.id}
          onChange={(event) => {
            setSimulator(SIMULATORS.find(({ id }) => id === event.target.value)!);
            setValues({});
          }}
        >
          {SIMULATORS.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </Form.Select>
        <p>{simulator.purpose}</p>
      </div>
      <div className="workshop-controls">
        {groups.map((group) => (
          <fieldset key={group}>
            <legend>{group}</legend>
            {simulator.parameters
              .filter((one) => one.group === group)
              .map((one) =>
                one.kind === 'number' ? (
                  <Ruler
                    key={one.id}
                    parameter={one}
                    value={all[one.id] ?? one.default}
                    timing={timing}
                    signal="wet"
                    context="Simulated"
                    onPreview={(value) => set(one.id, value)}
                    onSettle={() => {}}
                  />
                ) : one.kind === 'choice' ? (
                  <label key={one.id} className="choice" data-help={one.help}>
                    <span>{one.name}</span>
                    <Form.Select
                      size="sm"
                      aria-label={one.name}
                      value={String(all[one.id])}
                      onChange={(event) => set(one.id, event.target.value)}
                    >
                      {one.choices.map((choice) => (
                        <option key={choice.id} value={choice.id}>
                          {choice.name}
                        </option>
                      ))}
                    </Form.Select>
                  </label>
                ) : (
                  <Form.Check
                    key={one.id}
                    type="switch"
                    id={`simulate-${one.id}`}
                    label={one.name}
                    data-help={one.help}
                    checked={all[one.id] === true}
                    onChange={(event) => set(one.id, event.target.checked)}
                  />
                ),
              )}
          </fieldset>
        ))}
      </div>
      <div className="workshop-row">
        <Form.Control
          size="sm"
          aria-label="Name of the impulse"
          placeholder={simulator.name}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <label className="lane-field" title="New random seed">
          <span>seed</span>
          <Form.Control
            size="sm"
            type="number"
            min={0}
            max={HIGHEST_SEED}
            value={seed}
            onChange={(event) => setSeed(Math.min(HIGHEST_SEED, Math.max(0, Math.round(Number(event.target.value)))))}
          />
        </label>
        <Button variant="line" disabled={task.busy} onClick={() => void make()}>
          Create and use
        </Button>
      </div>
      <TaskProgress task={task} what={`Working out ${simulator.name.toLowerCase()}`} />
    </div>
  );
}
