'use client';

import { useMemo } from 'react';
import { Plus } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { renderTestSignal, TEST_SIGNALS, type TestSignal } from '@/core/analysis/testSignals';
import { writeWav } from '@/core/formats/wav';
import type { Asset } from '@/core/session/records/clips';
import { useStudio, useStudioState } from '../session/StudioContext';
import { DataTable, type DataShape } from '../ui/DataTable';
import { Drawer } from '../controls/Drawer';
import { Renders } from './Renders';

/** Sounds to put into the session: its own, and signals to test effects with. */
export function LibraryDrawer() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const trackId = document.tracks[stripId] ? stripId : null;
  const where = trackId === null ? 'on a new track' : `on ${document.tracks[trackId]!.name}`;
  const assets = useMemo(() => Object.values(document.assets), [document.assets]);
  const shape = useMemo(
    (): DataShape<Asset> => ({
      idOf: ({ id }) => id,
      columns: [
        {
          id: 'name',
          head: 'Sound',
          value: ({ name }) => name,
          cell: (asset) => (
            <Button
              variant="plain"
              title={`Put ${asset.name} at the playhead`}
              onClick={() => studio.imports.placeSound(asset, studio.transport.heardBeat, trackId)}
            >
              {asset.name}
            </Button>
          ),
        },
        {
          id: 'seconds',
          head: 's',
          help: 'Length in seconds.',
          value: ({ frames, sampleRateHz }) => frames / sampleRateHz,
          cell: ({ frames, sampleRateHz }) => (frames / sampleRateHz).toFixed(1),
        },
        {
          id: 'channels',
          head: 'ch',
          help: 'Channels: 1 is mono, 2 stereo.',
          value: ({ channels }) => channels,
        },
        {
          id: 'rate',
          head: 'kHz',
          help: 'Sample rate of the file.',
          value: ({ sampleRateHz }) => sampleRateHz / 1000,
        },
      ],
    }),
    [studio, trackId],
  );
  const addSignal = async (signal: TestSignal) => {
    const { sampleRateHz } = document.session;
    const { left, right } = renderTestSignal(signal.id, sampleRateHz);
    const bytes = writeWav({ sampleRateHz, channels: left === right ? [left] : [left, right] }, '32f');
    const file = new File([bytes as BlobPart], `${signal.name}.wav`, { type: 'audio/wav' });
    await studio.imports.importFiles([file], studio.transport.heardBeat, trackId);
  };
  return (
    <Drawer title="Library">
      <Renders />
      <p className="empty-hint">A press puts a sound at the playhead, {where}.</p>
      <h3>Test signals</h3>
      <ul className="library-list">
        {TEST_SIGNALS.map((signal) => (
          <li key={signal.id}>
            <Button bsPrefix="bare" onClick={() => void addSignal(signal)}>
              <Plus size={12} aria-hidden="true" />
              <b>{signal.name}</b>
              <small>{signal.use}</small>
            </Button>
          </li>
        ))}
      </ul>
      <h3>Sounds of this session</h3>
      {assets.length > 0 ? (
        <DataTable label="Sounds of this session" shape={shape} rows={assets} />
      ) : (
        <p className="empty-hint">None yet. Drop sound files onto the timeline to bring them in.</p>
      )}
    </Drawer>
  );
}
