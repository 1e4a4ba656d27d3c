'use client';

import { Plus } from 'lucide-react';
import Button from 'react-bootstrap/Button';
import { renderTestSignal, TEST_SIGNALS, type TestSignal } from '@/core/analysis/testSignals';
import { writeWav } from '@/core/formats/wav';
import type { Asset } from '@/core/session/records';
import { useStudio, useStudioState } from '../session/StudioContext';
import { Drawer } from '../ui/Drawer';

const channelsInWords = (count: number) => (count === 1 ? 'mono' : count === 2 ? 'stereo' : `${count} channels`);

/** Sounds to put into the session: its own, and signals to test effects with. */
export function LibraryDrawer() {
  const studio = useStudio();
  const { document, stripId } = useStudioState(({ document, stripId }) => ({ document, stripId }));
  const trackId = document.tracks[stripId] ? stripId : null;
  const where = trackId === null ? 'on a new track' : `on ${document.tracks[trackId]!.name}`;
  const addSignal = async (signal: TestSignal) => {
    const { sampleRateHz } = document.session;
    const { left, right } = renderTestSignal(signal.id, sampleRateHz);
    const bytes = writeWav({ sampleRateHz, channels: left === right ? [left] : [left, right] }, '32f');
    const file = new File([bytes as BlobPart], `${signal.name}.wav`, { type: 'audio/wav' });
    await studio.importFiles([file], studio.heardBeat, trackId);
  };
  return (
    <Drawer title="Library">
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
      <ul className="library-list">
        {Object.values(document.assets).map((asset: Asset) => (
          <li key={asset.id}>
            <Button bsPrefix="bare" onClick={() => studio.placeSound(asset, studio.heardBeat, trackId)}>
              <Plus size={12} aria-hidden="true" />
              <b>{asset.name}</b>
              <small>{`${(asset.frames / asset.sampleRateHz).toFixed(1)} s, ${channelsInWords(asset.channels)}, ${asset.sampleRateHz / 1000} kHz`}</small>
            </Button>
          </li>
        ))}
      </ul>
      {Object.keys(document.assets).length === 0 && (
        <p className="empty-hint">None yet. Drop sound files onto the timeline to bring them in.</p>
      )}
    </Drawer>
  );
}
