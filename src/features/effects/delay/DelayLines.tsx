'use client';

import { Copy } from 'lucide-react';
import Dropdown from 'react-bootstrap/Dropdown';
import Button from 'react-bootstrap/Button';
import { LINES } from '@/core/effects/delay/routing';
import { delaySpec } from '@/core/effects/delay/spec';
import { formatValue } from '@/core/effects/parameterText';
import { findParameter, type ParameterValue } from '@/core/effects/spec';
import type { Insert } from '@/core/session/records/inserts';
import { timingOf } from '@/core/session/records/queries';
import { useStudio, useStudioState } from '../../session/StudioContext';
import type { ItemProps } from '../extras';

const valueOf = (insert: Insert, id: string): ParameterValue =>
  insert.values[id] ?? findParameter(delaySpec, id)!.default;

/** The lines of a delay side by side: choose, use, mute, solo, and copy one onto another. */
export function DelayLines({ insert, item: line, onItem: onLine }: ItemProps) {
  const studio = useStudio();
  const timing = useStudioState(({ document }) => timingOf(document));
  const turn = (id: string, value: boolean, label: string) =>
    studio.controls.turnOnce(insert.id, findParameter(delaySpec, id)!, value, label);
  const copyOnto = (target: number) => {
    const own = delaySpec.lists[0]!.parameters.map(({ id }) => id);
    const values = Object.fromEntries(
      own.map((id) => [`lines.${target}.${id}`, valueOf(insert, `lines.${line}.${id}`)]),
    );
    if (studio.editor.perform({ type: 'insert.set', id: insert.id, values }, `Copy line ${line} onto line ${target}`))
      onLine(target);
  };
  return (
    <div className="delay-lines" role="group" aria-label="Lines">
      {Array.from({ length: LINES }, (_, n) => n + 1).map((one) => {
        const id = (name: string) => `lines.${one}.${name}`;
        const used = valueOf(insert, id('on')) === true;
        const time = findParameter(delaySpec, id('timeLeft'))!;
        const whole = formatValue(time, valueOf(insert, time.id), timing);
        const shown = whole.split(', ')[0]!;
        return (
          <div
            key={one}
            className={`delay-line ${one === line ? 'delay-line-open' : ''} ${used ? '' : 'delay-line-unused'}`}
          >
            <Button
              bsPrefix="delay-line-name"
              aria-pressed={one === line}
              aria-label={used ? `Line ${one}, ${whole}` : `Use line ${one}`}
              title={used ? whole : undefined}
              onClick={() => {
                if (!used) turn(id('on'), true, `Use line ${one}`);
                onLine(one);
              }}
            >
              <b>{one}</b>
              <small>{used ? shown : '+'}</small>
            </Button>
            {used && (
              <span className="delay-line-keys">
                {(['mute', 'solo'] as const).map((name) => (
                  <Button
                    key={name}
                    bsPrefix="flag"
                    aria-pressed={valueOf(insert, id(name)) === true}
                    aria-label={`${name === 'mute' ? 'Mute' : 'Solo'} line ${one}`}
                    title={name === 'mute' ? 'Mute' : 'Solo'}
                    onClick={() =>
                      turn(
                        id(name),
                        valueOf(insert, id(name)) !== true,
                        `${name === 'mute' ? 'Mute' : 'Solo'} line ${one}`,
                      )
                    }
                  >
                    {name === 'mute' ? 'M' : 'S'}
                  </Button>
                ))}
              </span>
            )}
          </div>
        );
      })}
      <Dropdown align="end">
        <Dropdown.Toggle
          variant="icon"
          bsPrefix="copy-toggle"
          aria-label={`Copy line ${line} onto another`}
          title={`Copy line ${line} onto another`}
        >
          <Copy size={13} aria-hidden="true" />
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Header>Copy line {line} onto</Dropdown.Header>
          {Array.from({ length: LINES }, (_, n) => n + 1)
            .filter((one) => one !== line)
            .map((one) => (
              <Dropdown.Item key={one} as="button" type="button" onClick={() => copyOnto(one)}>
                Line {one}
              </Dropdown.Item>
            ))}
        </Dropdown.Menu>
      </Dropdown>
    </div>
  );
}
