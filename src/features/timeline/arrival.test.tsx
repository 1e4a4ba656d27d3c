import { act, fireEvent, screen } from '@testing-library/react';
import { newClip } from '@/core/session/records/factories';
import type { Asset } from '@/core/session/records/clips';
import { renderIn, testStudio } from '../../../test/support/studio';
import type { Arrival, ArrivalAnswer, ArrivingFile } from '../session/arrival';
import { useStudioState } from '../session/StudioContext';
import { ArrivalDialog } from './ArrivalDialog';
import { FileMarks, SoundFacts } from './SoundFacts';

const arriving = (name: string, channels: number, startSeconds?: number): ArrivingFile => ({
  file: new File([], name),
  about: { channels, speakers: null, told: startSeconds === undefined ? {} : { startSeconds } },
});

function ask(arrival: Omit<Arrival, 'answer'>) {
  const answers: (ArrivalAnswer | null)[] = [];
  const test = testStudio([]);
  test.studio.set({ arrival: { ...arrival, answer: (answer) => answers.push(answer) } });
  renderIn(test.studio, <ArrivalDialog />);
  return answers;
}

const chosenIn = (label: string) => screen.getByLabelText<HTMLSelectElement>(label).selectedOptions[0]!.textContent;

const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }));

describe('how files come in', () => {
  it('asks for the places of several, those of their own times only if all tell one', () => {
    const files = [arriving('a.wav', 1, 3600), arriving('b.wav', 1)];
    const answers = ask({ files, trackName: 'Voice', unplaced: [] });
    expect(screen.getByRole<HTMLInputElement>('radio', { name: /own time/ }).disabled).toBe(true);
    fireEvent.click(screen.getByRole('radio', { name: 'one after the other on Voice' }));
    press('Bring them in');
    expect(answers).toEqual([{ placing: 'row', heard: new Map() }]);
  });

  it('asks what is heard of four channels, quad being likely, and takes two of them', () => {
    const answers = ask({ files: [arriving('four.wav', 4)], trackName: null, unplaced: [4] });
    expect(screen.queryByRole('radio')).toBeNull();
    const choice = screen.getByLabelText('What is heard of 4 channels');
    expect(chosenIn('What is heard of 4 channels')).toBe('quad, folded to two');
    fireEvent.change(choice, { target: { value: 'taken' } });
    fireEvent.change(screen.getByLabelText('What is heard of 4 channels, left'), { target: { value: '3' } });
    fireEvent.change(screen.getByLabelText('What is heard of 4 channels, right'), { target: { value: '4' } });
    press('Bring it in');
    expect([...answers[0]!.heard]).toEqual([[4, 'take-3-4']]);
  });

  it('takes the first of sixteen channels, and leaves files that nobody wants', () => {
    const answers = ask({ files: [arriving('field.wav', 16)], trackName: null, unplaced: [16] });
    expect(chosenIn('What is heard of 16 channels, right')).toBe('right 1');
    press('Leave it');
    expect(answers).toEqual([null]);
  });
});

describe('what a file tells', () => {
  const asset: Asset = {
    id: 'a'.repeat(64),
    name: 'gate.wav',
    frames: 96000,
    sampleRateHz: 48000,
    channels: 6,
    heard: 'fold-63',
    about: {
      startSeconds: 3600,
      tempoBpm: 96,
      key: 'D minor',
      marks: [
        { seconds: 0.5, name: 'Breath' },
        { seconds: 0.6, name: 'Gate' },
        { seconds: 1.9, name: 'Late' },
      ],
    },
  };
  const clip = newClip({
    id: 'clip',
    trackId: 'voice',
    source: { kind: 'sound', assetId: asset.id },
    name: 'gate',
    startBeat: 4,
    lengthSeconds: 1.5,
  });
  const shown = () => {
    const test = testStudio([
      { type: 'track.add', id: 'voice', name: 'Voice' },
      { type: 'asset.add', asset },
      { type: 'clip.add', clip },
    ]);
    function Shown() {
      const document = useStudioState((state) => state.document);
      const now = document.clips.clip!;
      const sound = document.assets[asset.id]!;
      return (
        <>
          <SoundFacts clip={now} asset={sound} />
          <FileMarks clip={now} asset={sound} perSecond={100} />
        </>
      );
    }
    renderIn(test.studio, <Shown />);
    return test;
  };

  it('is shown, and can be taken for the session: its tempo and its time', () => {
    const { studio } = shown();
    screen.getByText('96 BPM · D minor · from 1:00:00.0');
    press('Set tempo to 96 BPM');
    expect(studio.state.document.session.tempoBpm).toBe(96);
    expect(screen.queryByRole('button', { name: 'Set tempo to 96 BPM' })).toBeNull();
    press('Move to 1:00:00.0');
    expect(studio.state.document.clips.clip!.startBeat).toBe(5760);
    expect(screen.queryByRole('button', { name: /^Move to/ })).toBeNull();
  });

  it('chooses channels for all clips of the sound', () => {
    const { studio } = shown();
    fireEvent.change(screen.getByLabelText('What is heard of gate.wav'), { target: { value: 'taken' } });
    expect(studio.state.document.assets[asset.id]!.heard).toBe('take-1-2');
  });

  it('marks lie where the sound has them, without those beyond the clip, and lead the playhead there', () => {
    const beats: number[] = [];
    const { studio } = shown();
    Object.assign(studio, { transport: { seekBeat: (beat: number) => beats.push(beat) } });
    const marks = screen.getAllByRole('button', { name: /^Mark/ });
    expect(marks.map((mark) => [mark.getAttribute('aria-label'), mark.style.left, mark.textContent])).toEqual([
      ['Mark 1 of gate: Breath', '50px', ''],
      ['Mark 2 of gate: Gate', '60px', 'Gate'],
    ]);
    fireEvent.click(marks[0]!);
    expect(beats[0]).toBeCloseTo(4 + (0.5 * studio.state.document.session.tempoBpm) / 60);
  });

  it('marks of a reversed clip are mirrored', () => {
    const { studio } = shown();
    act(() => {
      studio.editor.perform({ type: 'clip.set', id: 'clip', values: { reversed: true } }, 'Reverse');
    });
    const marks = screen.getAllByRole('button', { name: /^Mark/ });
    expect(marks.map((mark) => [mark.title.split(':')[0], mark.style.left])).toEqual([
      ['Gate', '90px'],
      ['Breath', '100px'],
    ]);
  });
});
