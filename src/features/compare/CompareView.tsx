'use client';

import { useEffect, useMemo, useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import type { Levels } from '@/core/analysis/levels';
import { findEffect } from '@/core/effects/registry';
import { stripOf } from '@/core/session/records/queries';
import type { SlotName } from '@/core/session/records/inserts';
import {
  chooseCommand,
  comparedStrip,
  currentSlot,
  filledSlots,
  gainsFor,
  measureSlots,
  SLOTS,
  type SlotLevels,
} from '../session/comparing';
import { useStudio, useStudioState } from '../session/StudioContext';
import { minus } from '../ui/axes';
import { takesLevelAway } from '../controls/reduction';
import { ReductionHistory } from '../controls/ReductionHistory';
import { DataTable, type DataShape } from '../ui/DataTable';
import { SoundHistory } from '../controls/SoundHistory';
import { StereoScope } from '../controls/StereoScope';
import { SpectrumChart } from '../controls/SpectrumChart';
import { BlindTrial } from './BlindTrial';
import { MonoReport } from './MonoReport';

/** Up to four settings of an effect or a chain side by side at equal loudness, and the sound before and after. */
export function CompareView() {
  const studio = useStudio();
  const { document, stripId, insertId } = useStudioState(({ document, stripId, insertId }) => ({
    document,
    stripId,
    insertId,
  }));
  const [what, setWhat] = useState<'chain' | 'effect'>('chain');
  const strip = stripOf(document, stripId)!;
  const insert = insertId === null ? undefined : document.inserts[insertId];
  const reducing = strip.insertIds.filter((id) => takesLevelAway(document.inserts[id]!));
  const target = what === 'effect' && insert ? insert.id : stripId;
  const name =
    what === 'effect' && insert
      ? `${findEffect(insert.effect)!.name} on ${strip.name}`
      : `all effects of ${strip.name}`;
  return (
    <div className="compare-view">
      <header className="effect-head">
        <h2>Compare</h2>
        <label className="choice">
          <span>settings of</span>
          <Form.Select
            aria-label="What to compare"
            value={insert ? what : 'chain'}
            onChange={(event) => setWhat(event.target.value as 'chain' | 'effect')}
          >
            <option value="chain">all effects of {strip.name}</option>
            {insert && <option value="effect">{findEffect(insert.effect)!.name} alone</option>}
          </Form.Select>
        </label>
        <Button
          variant="line"
          data-help="Where a sound lives in the spectrum, and room for it in another"
          onClick={() => studio.set({ drawer: 'contrast' })}
        >
          Contrast
        </Button>
      </header>
      <Slots key={target} target={target} name={name} />
      <div className="compare-sound">
        <figure className="compare-spectrum">
          <SpectrumChart
            key={stripId}
            targetId={stripId}
            step={15}
            height={300}
            label={`Live spectrum before the effects of ${strip.name} and after its fader`}
          />
          <figcaption>
            <span className="legend legend-before">before the effects</span>
            <span className="legend legend-after">after the fader</span>
          </figcaption>
        </figure>
        <StereoScope key={`field ${stripId}`} targetId={stripId} label="Field before the effects and after the fader" />
      </div>
      <MonoReport
        key={`mono ${target}`}
        stripId={stripId}
        insertId={what === 'effect' && insert && strip.insertIds.includes(insert.id) ? insert.id : null}
      />
      <SoundHistory
        key={`loudness ${stripId}`}
        targetId={stripId}
        what="loudness"
        label={`Loudness of ${strip.name} over the last 20 seconds, before its effects and after its fader`}
      />
      <SoundHistory
        key={`balance ${stripId}`}
        targetId={stripId}
        what="balance"
        label={`Balance of ${strip.name} over the last 20 seconds, before its effects and after its fader`}
      />
      {reducing.map((id) => (
        <section key={id} className="compare-reduction">
          <h3>{findEffect(document.inserts[id]!.effect)!.name}, level taken away</h3>
          <ReductionHistory insertId={id} />
        </section>
      ))}
    </div>
  );
}

const figure = (value: number | null | undefined, digits: number, unit: string) =>
  value === null || value === undefined ? '–' : `${minus(value.toFixed(digits))}${unit}`;

/** Measured levels of the slots, side by side. */
interface SlotRow {
  readonly slot: SlotName;
  readonly levels: Levels;
}

/** A column of a figure that may be none. */
const figureOf = (
  id: string,
  head: string,
  of: (levels: Levels) => number | null,
  digits: number,
  unit: string,
  help: string,
) => ({
  id,
  head,
  help,
  value: ({ levels }: SlotRow) => of(levels) ?? undefined,
  cell: ({ levels }: SlotRow) => figure(of(levels), digits, unit),
});
const crest = ({ peakDb, rmsDb }: Levels) => (peakDb === null || rmsDb === null ? null : peakDb - rmsDb);

const SLOT_SHAPE: DataShape<SlotRow> = {
  idOf: ({ slot }) => slot,
  columns: [
    { id: 'slot', head: 'Slot', value: ({ slot }) => slot },
    figureOf('loudness', 'Loudness', (one) => one.loudnessLufs, 1, ' LUFS', 'Of the whole session, gated.'),
    figureOf('truePeak', 'True peak', (one) => one.truePeakDb, 1, ' dB', 'Between the samples too.'),
    figureOf('crest', 'Crest', crest, 1, ' dB', 'Highest sample above the mean level.'),
    figureOf(
      'width',
      'Correlation',
      (one) => one.correlation,
      2,
      '',
      '1 is mono, 0 wide; below 0 sides cancel in mono.',
    ),
    figureOf('mono', 'Lost in mono', (one) => one.monoLossLu, 1, ' LU', 'Loudness that is gone on one loudspeaker.'),
  ],
};

function SlotTable({ levels, heard }: { readonly levels: SlotLevels; readonly heard: SlotName }) {
  const rows = useMemo(() => SLOTS.flatMap((slot) => (levels[slot] ? [{ slot, levels: levels[slot] }] : [])), [levels]);
  return <DataTable label="Figures of the slots" shape={SLOT_SHAPE} rows={rows} current={heard} />;
}

function Slots({ target, name }: { target: string; name: string }) {
  const studio = useStudio();
  const { document, trims } = useStudioState(({ document, trims }) => ({ document, trims }));
  const [levels, setLevels] = useState<SlotLevels>({});
  const [even, setEven] = useState(true);
  const [measuring, setMeasuring] = useState(false);
  const [blind, setBlind] = useState(false);
  const heard = currentSlot(document, target);
  const filled = filledSlots(document, target);
  const strip = comparedStrip(document, target)!;
  const gains = gainsFor(levels);
  const known = filled.every((slot) => levels[slot] !== undefined);

  const apply = (slot: SlotName, on: boolean) => {
    studio.monitor.setTrim(strip, on ? (gains[slot] ?? 0) : 0);
  };
  // Loudness matching belongs to comparing: it ends with the view.
  useEffect(() => () => studio.monitor.setTrim(strip, 0), [studio, strip]);
  const measure = async () => {
    setMeasuring(true);
    try {
      const measured = await measureSlots(studio, target);
      setLevels(measured);
      const now = gainsFor(measured)[currentSlot(studio.state.document, target)];
      studio.monitor.setTrim(strip, even ? (now ?? 0) : 0);
    } catch (error) {
      studio.messages.report(error);
    } finally {
      setMeasuring(false);
    }
  };
  const choose = (slot: SlotName) => {
    if (studio.editor.perform(chooseCommand(target, slot), `Compare ${name}: ${slot}`)) apply(slot, even);
  };
  return (
    <>
      <div className="slots" role="radiogroup" aria-label={`Settings of ${name}`}>
        {(blind ? [] : SLOTS).map((slot) => {
          const full = filled.includes(slot);
          const lufs = levels[slot]?.loudnessLufs;
          return (
            <Button
              bsPrefix="bare"
              key={slot}
              role="radio"
              aria-checked={slot === heard}
              aria-label={full ? `Hear ${slot}` : `Copy what is heard to ${slot}`}
              className={`slot ${full ? '' : 'slot-empty'}`}
              onClick={() => choose(slot)}
            >
              <b>{slot}</b>
              <span>{full ? (slot === heard ? 'heard now' : 'kept') : 'empty: press to begin with a copy'}</span>
              <em>
                {lufs === undefined ? '' : lufs === null ? 'silent' : `${lufs.toFixed(1)} LUFS`}
                {even && gains[slot] !== undefined && lufs !== null ? `, ${gains[slot]!.toFixed(1)} dB` : ''}
              </em>
            </Button>
          );
        })}
      </div>
      <div className="compare-tools">
        <Button variant="line" disabled={measuring} onClick={() => void measure()}>
          {measuring ? 'Measuring…' : 'Measure loudness'}
        </Button>
        <label className="switch">
          <Form.Check.Input
            type="checkbox"
            role="switch"
            checked={even}
            onChange={(event) => {
              setEven(event.target.checked);
              apply(heard, event.target.checked);
            }}
          />
          <span>Equal loudness</span>
        </label>
        <span className="compare-note">
          {blind
            ? ''
            : trims[strip] !== undefined
              ? `${heard} is heard ${Math.abs(trims[strip]!).toFixed(1)} dB softer, to be as loud as the softest.`
              : known
                ? `${heard} is heard as it is.`
                : 'Measure first: louder always seems better for a minute.'}
        </span>
        <Button
          variant="line"
          disabled={filled.length < 2 || !known}
          title={
            filled.length < 2
              ? 'Needs two settings'
              : known
                ? 'Hear them without knowing which is which'
                : 'Measure loudness first'
          }
          onClick={() => setBlind(true)}
        >
          Blind trial
        </Button>
        {document.comparisons[target] && (
          <Button
            variant="line"
            title="Keeps what is heard and discards the other slots"
            onClick={() => {
              if (studio.editor.perform({ type: 'comparison.remove', id: target }, `Keep ${heard} of ${name}`)) {
                setLevels({});
                apply(heard, false);
              }
            }}
          >
            Keep {heard}, discard others
          </Button>
        )}
      </div>
      {!blind && Object.keys(levels).length > 0 && <SlotTable levels={levels} heard={heard} />}
      {blind && (
        <BlindTrial target={target} strip={strip} slots={filled} gains={gains} onClose={() => setBlind(false)} />
      )}
    </>
  );
}
