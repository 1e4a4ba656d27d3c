'use client';

import { useState } from 'react';
import Button from 'react-bootstrap/Button';
import Form from 'react-bootstrap/Form';
import Modal from 'react-bootstrap/Modal';
import type { Portrait, Region } from '@/core/analysis/portrait';
import { bandsOnto, contrastBands } from '@/core/session/contrast';
import { compileTap } from '@/core/session/compile/parts';
import { channels, stripOf } from '@/core/session/records/queries';
import type { Return, Track } from '@/core/session/records/strips';
import type { SessionDocument } from '@/core/session/records/document';
import { portraitsOf } from '../session/bandProfile';
import { newId } from '../session/newId';
import { useStudio, useStudioState } from '../session/StudioContext';
import { decibels, frequencyAxis, minus } from '../ui/axes';
import { Chart, type ChartLine } from '../ui/Chart';

const LEVELS = decibels(-48, 0, 12, 'level');

/** The strip that a sound most likely masks: the return that it is sent to, or a strip that sends to it. */
function partnerOf(document: SessionDocument, id: string): string | undefined {
  const sends = Object.values(document.sends);
  return (
    sends.find(({ fromId }) => fromId === id)?.toId ??
    sends.find(({ toId }) => toId === id)?.fromId ??
    channels(document).find((one) => one.id !== id)?.id
  );
}

/** Makes room for a sound in another: both spectra, and the equalizer that lowers one where the other is strong. */
export function ContrastDialog() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const all = channels(document);
  const first = document.returns[stripId] ? (partnerOf(document, stripId) ?? stripId) : stripId;
  const [soundId, setSoundId] = useState(all.some(({ id }) => id === first) ? first : (all[0]?.id ?? ''));
  const [spaceId, setSpaceId] = useState(document.returns[stripId] ? stripId : (partnerOf(document, soundId) ?? ''));
  const [found, setFound] = useState<{ key: string; sound: Portrait; space: Portrait } | null>(null);
  const [busy, setBusy] = useState(false);
  const key = `${soundId} ${spaceId}`;
  const now = found?.key === key ? found : null;
  const sound = stripOf(document, soundId);
  const space = stripOf(document, spaceId);
  const close = () => studio.set({ contrasting: false });
  const listen = async () => {
    setBusy(true);
    try {
      const plans = [compileTap(document, soundId), compileTap(document, spaceId)];
      const [sound, space] = await portraitsOf(studio, 'Listening to both', plans);
      setFound({ key, sound: sound!, space: space! });
    } catch (error) {
      studio.messages.report(error);
    } finally {
      setBusy(false);
    }
  };
  const apply = (regions: readonly Region[]) => {
    const command = bandsOnto(studio.state.document, spaceId, contrastBands(regions), newId());
    if (!studio.editor.perform(command, `Room for ${sound!.name} in ${space!.name}`)) return;
    studio.selection.selectStrip(spaceId);
    close();
  };
  return (
    <Modal show centered size="lg" onHide={close} aria-labelledby="contrast-title">
      <Modal.Header closeButton>
        <Modal.Title id="contrast-title" as="h2">
          Contrast
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {all.length < 2 ? (
          <p>Contrast takes two: a sound, and a return or another track to make room for it in.</p>
        ) : (
          <>
            <div className="contrast-pair">
              <Choice label="Sound" strips={all} value={soundId} onChosen={setSoundId} />
              <Choice
                label="Yields to it"
                strips={all.filter(({ id }) => id !== soundId)}
                value={spaceId}
                onChosen={setSpaceId}
              />
              <Button
                variant={now ? 'line' : 'solid'}
                disabled={busy || !space || soundId === spaceId}
                onClick={() => void listen()}
              >
                {busy ? 'Listening …' : now ? 'Listen again' : 'Listen to both'}
              </Button>
            </div>
            <Chart
              x={frequencyAxis}
              y={LEVELS}
              lines={now ? [lineOf(sound!.name, 'dry', now.sound), lineOf(space!.name, 'wet', now.space)] : []}
              height={230}
              label="Both spectra by thirds of an octave"
            />
            {now && <Regions name={sound!.name} regions={now.sound.regions} />}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="line" onClick={close}>
          Close
        </Button>
        {now && now.sound.regions.length > 0 && (
          <Button variant="solid" onClick={() => apply(now.sound.regions)}>
            Lower {space!.name} there
          </Button>
        )}
      </Modal.Footer>
    </Modal>
  );
}

function Choice(props: {
  readonly label: string;
  readonly strips: readonly (Track | Return)[];
  readonly value: string;
  readonly onChosen: (id: string) => void;
}) {
  const { label, strips, value, onChosen } = props;
  return (
    <label className="choice">
      <span>{label}</span>
      <Form.Select aria-label={label} value={value} onChange={(event) => onChosen(event.target.value)}>
        {!strips.some(({ id }) => id === value) && <option value={value}>choose</option>}
        {strips.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </Form.Select>
    </label>
  );
}

/** The spectrum of a sound, and the cuts that would be made in another. */
function Regions({ name, regions }: { readonly name: string; readonly regions: readonly Region[] }) {
  if (regions.length === 0)
    return <p role="status">No region of {name} stands out: there is nothing to make room for.</p>;
  const bands = contrastBands(regions);
  return (
    <p role="status">
      {name} lives around{' '}
      {regions.map(({ centreHz, fromHz, toHz }, n) => (
        <span key={centreHz}>
          {n > 0 && (n === regions.length - 1 ? ' and ' : ', ')}
          <b>{frequencyAxis.word(Math.round(centreHz))} Hz</b> ({Math.round(fromHz)} to {Math.round(toHz)} Hz, taken{' '}
          {minus(String(bands[n]!.gain))} dB)
        </span>
      ))}
      .
    </p>
  );
}

const lineOf = (name: string, ink: 'dry' | 'wet', { hz, levelsDb }: Portrait): ChartLine => ({
  name,
  ink,
  points: hz.map((x, n) => ({ x, y: Math.max(LEVELS.min, levelsDb[n]!) })),
  marks: 'none',
  dashed: ink === 'wet',
  reading: (x, y) => `${name} ${minus(y.toFixed(1))} dB at ${frequencyAxis.word(x)} Hz`,
});
