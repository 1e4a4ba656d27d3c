import { fireEvent, screen } from '@testing-library/react';
import { renderIn, testStudio } from '../../../test/support/studio';
import type { PlacedPrint } from '@/core/session/prints';
import { newClip } from '@/core/session/records/factories';
import type { SwellRecipe } from '@/core/session/records/prints';
import { useStudioState } from '../session/StudioContext';
import { Landing } from './Landing';

const SOUND = 'a'.repeat(64);
const clip = newClip({
  id: 'word',
  trackId: 'voice',
  source: { kind: 'sound', assetId: SOUND },
  name: 'Word',
  startBeat: 4,
  lengthSeconds: 6,
});
const recipe: SwellRecipe = {
  kind: 'swell',
  clipId: 'word',
  landSeconds: 2,
  space: { kind: 'own', inserts: [] },
  values: {},
};

function Place() {
  const print = useStudioState((state) => state.document.prints.swell as PlacedPrint);
  return <Landing print={print} clip={clip} perSecond={50} onsets={[]} />;
}

test('a landing goes as far as the pointer, in however many moves', () => {
  Element.prototype.setPointerCapture = () => {};
  const { studio, store } = testStudio([
    { type: 'track.add', id: 'voice', name: 'Voice' },
    { type: 'asset.add', asset: { id: SOUND, name: 'a.wav', frames: 480000, sampleRateHz: 48000, channels: 1 } },
    { type: 'clip.add', clip },
    { type: 'print.add', print: { id: 'swell', recipe, made: null } },
  ]);
  store.setState({ pixelsPerBeat: 20 });
  renderIn(studio, <Place />);
  const { pixelsPerBeat, document } = store.getState();
  const landing = screen.getByRole('slider');
  const point = (type: string, clientX: number) => fireEvent(landing, new MouseEvent(type, { bubbles: true, clientX }));
  point('pointerdown', 100);
  for (let n = 1; n <= 10; n++) point('pointermove', 100 + 1.5 * n);
  point('pointerup', 115);
  const { landSeconds } = store.getState().document.prints.swell!.recipe as SwellRecipe;
  const pixels = ((landSeconds - 2) * document.session.tempoBpm * pixelsPerBeat) / 60;
  expect(pixels).toBeCloseTo(15, 6);
});
