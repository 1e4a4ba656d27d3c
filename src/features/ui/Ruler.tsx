'use client';

import { useId, useRef, useState } from 'react';
import { Spline } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import { messageOf, type KinetikonError } from '@/core/errors';
import type { Timing } from '@/core/effects/noteValues';
import { formatValue, parseValue } from '@/core/effects/parameterText';
import { resolveValue } from '@/core/effects/resolve';
import type { NumberParameter, ParameterValue } from '@/core/effects/spec';
import { writeText } from './drawn';
import { nearestNote, rulerPosition, type RulerValue } from './rulerMoves';
import { RulerScale, type RulerAutomation, type RulerModulation } from './RulerScale';

export type { RulerAutomation, RulerModulation };

export type Signal = 'dry' | 'wet' | 'key';

export const LANE_WORDS = {
  none: 'automate it with a lane',
  on: 'open its lane',
  off: 'lane suspended: resume it',
} as const;

/** The same, to be read while the pointer or the focus is there. */
export const LANE_HELP = {
  none: 'Automate it: a lane under the track draws its value over time',
  on: 'Open its lane',
  off: 'Its lane is suspended: resume it',
} as const;

interface RulerProps {
  readonly parameter: NumberParameter;
  readonly value: ParameterValue;
  readonly timing: Timing;
  readonly signal: Signal;
  /** Said by screen readers before the parameter's name when several rulers share it. */
  readonly context?: string;
  readonly automation?: RulerAutomation;
  readonly modulation?: RulerModulation;
  /** While dragging, wheeling or holding an arrow key. Returns why the value was refused, if it was. */
  readonly onPreview: (value: ParameterValue) => KinetikonError | null | void;
  /** The movement is over. */
  readonly onSettle: () => void;
  /** A drag is taken back; without it the value of before is set again. */
  readonly onCancel?: () => void;
}

/** The message of an error, with the name of the control in place of its id. */
function inWords(error: unknown, parameter: NumberParameter): string {
  return messageOf(error).replace(parameter.id, parameter.name);
}

/**
 * A horizontal scale with real ticks: drag, arrow keys (Shift finer), wheel when focused, double-click for the default,
 * or type a value into its figure. A note value moves from note to note.
 */
export function Ruler(props: RulerProps) {
  const { parameter, value, timing, signal, context, automation, modulation, onPreview, onSettle, onCancel } = props;
  const [typing, setTyping] = useState<string | null>(null);
  const [error, setError] = useState<string | null>(null);
  const scale = useRef<HTMLDivElement>(null);
  const shown = useRef<HTMLButtonElement>(null);
  const errorId = useId();
  const ruler: RulerValue = { parameter, value, timing };
  const label = context ? `${context} ${parameter.name}` : parameter.name;
  const show = (text: string) => writeText(shown.current, text);

  const finishTyping = (written: string) => {
    setTyping(null);
    if (written.trim() === '') return setError(null);
    try {
      const refusal = onPreview(parseValue(parameter, written, timing, value));
      onSettle();
      setError(refusal ? inWords(refusal, parameter) : null);
    } catch (caught) {
      setError(inWords(caught, parameter));
    }
  };
  const cancel = (before: ParameterValue) => {
    if (onCancel) return onCancel();
    onPreview(before);
    onSettle();
  };

  return (
    <div className={`ruler ruler-${signal}`} data-help={parameter.help}>
      <div className="ruler-top">
        <span className="ruler-name">{parameter.name}</span>
        {automation && (
          <Button
            bsPrefix="bare"
            className={`ruler-lane ruler-lane-${automation.state}`}
            aria-label={`${label}: ${LANE_WORDS[automation.state]}`}
            data-help={LANE_HELP[automation.state]}
            onClick={automation.press}
          >
            <Spline size={11} aria-hidden="true" />
          </Button>
        )}
        {modulation?.button}
        {typing === null ? (
          <Button
            ref={shown}
            bsPrefix="ruler-value"
            tabIndex={-1}
            aria-label={`${label}: ${formatValue(parameter, value, timing)}`}
            onClick={() => setTyping('')}
          >
            {formatValue(parameter, value, timing)}
          </Button>
        ) : (
          <Form.Control
            className="ruler-input"
            aria-label={`${label}, type a value`}
            autoFocus
            defaultValue={typing}
            placeholder={formatValue(parameter, value, timing)}
            onBlur={(event) => finishTyping(event.target.value)}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === 'Enter') event.currentTarget.blur();
              if (event.key === 'Escape') setTyping(null);
              if (event.key === 'Enter' || event.key === 'Escape') scale.current?.focus();
            }}
          />
        )}
        {parameter.sync && <ModeButton ruler={ruler} label={label} onPreview={onPreview} onSettle={onSettle} />}
      </div>
      <RulerScale
        ruler={ruler}
        label={label}
        errorId={error ? errorId : undefined}
        automation={automation}
        modulation={modulation}
        scale={scale}
        onPreview={onPreview}
        onSettle={onSettle}
        onCancel={cancel}
        onShow={show}
        onType={setTyping}
      />
      {error && (
        <div id={errorId} role="alert" className="ruler-error">
          {error}
        </div>
      )}
    </div>
  );
}

/** Changes between note values and free values. */
function ModeButton({
  ruler,
  label,
  onPreview,
  onSettle,
}: { readonly ruler: RulerValue; readonly label: string } & Pick<RulerProps, 'onPreview' | 'onSettle'>) {
  const { parameter, value, timing } = ruler;
  const isNote = typeof value === 'string';
  return (
    <Button
      bsPrefix="ruler-mode"
      title={isNote ? 'Follow the clock instead of the tempo' : 'Follow the tempo'}
      aria-label={`${label}: ${isNote ? 'use free values' : 'use note values'}`}
      onClick={() => {
        const figure = Number(resolveValue(parameter, value, timing).toPrecision(5));
        onPreview(isNote ? figure : nearestNote(ruler, rulerPosition(ruler)));
        onSettle();
      }}
    >
      {isNote ? 'note' : parameter.unit}
    </Button>
  );
}
