import { act, fireEvent, screen, waitFor } from '@testing-library/react';
import { renderIn, testStudio } from '../../../test/support/studio';
import { KinetikonError } from '@/core/errors';
import type { Command } from '@/core/session/commands';
import { RECIPES } from '@/core/session/recipes/recipes';
import { RecipesDrawer } from './RecipesDrawer';

const TRACKS: Command[] = ['Voice', 'Harp'].map((name) => ({
  type: 'track.add',
  id: name.toLowerCase(),
  name,
}));

type Heard = { phrases: { start: number; end: number }[]; levelDb: number | null; thresholdDb: number; regions: [] };
const WORDS: Heard = { phrases: [{ start: 0, end: 2 }], levelDb: -18, thresholdDb: -40, regions: [] };

/** The drawer, and what its looks at sounds are answered. */
function drawer(commands: readonly Command[] = TRACKS) {
  const looks: { job: { kind: string }; answer: (heard: Heard) => void; refuse: (error: unknown) => void }[] = [];
  const chosen: string[] = [];
  const test = testStudio(commands, {
    sounds: { allPlayed: async () => new Map(), findOnsets: async () => {} },
    selection: { selectStrip: (id: string) => chosen.push(id) },
    worker: {
      run: (job: { kind: string }) => new Promise((answer, refuse) => looks.push({ job, answer, refuse })),
    },
  });
  test.studio.set({ stripId: 'harp' });
  renderIn(test.studio, <RecipesDrawer />);
  const question = (text: string) => screen.getByRole<HTMLSelectElement>('combobox', { name: text });
  return { ...test, looks, chosen, question };
}

const press = (name: string) => fireEvent.click(screen.getByRole('button', { name }));
const listened = (looks: readonly unknown[]) => waitFor(() => expect(looks).toHaveLength(1));

describe('recipes', () => {
  it('asks for a sound before there is a track', () => {
    drawer([]);
    expect(screen.getByText('There is no track yet. Bring in a sound first.')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Build it' })).toBeNull();
  });

  it('begins with the selected track, and shows what it will build as it is answered', () => {
    const { question } = drawer();
    expect(question('Whose echoes?').value).toBe('harp');
    expect(screen.getByText('A send from Harp into it.')).toBeTruthy();
    fireEvent.change(question('Whose echoes?'), { target: { value: 'voice' } });
    fireEvent.change(question('How far apart are the repeats?'), { target: { value: '1/2' } });
    expect(screen.getByText('A send from Voice into it.')).toBeTruthy();
    expect(screen.getByText('A return with a delay of 1/2 note, wet only.')).toBeTruthy();
  });

  it('begins with the section that the recipe prefers', () => {
    const section = (id: string, startBeat: number, lengthBeats: number): Command => ({
      type: 'section.add',
      section: { id, name: id, startBeat, lengthBeats },
    });
    const { question } = drawer([...TRACKS, section('verse', 0, 24), section('chorus', 24, 24), section('end', 48, 6)]);
    const open = (name: RegExp) => fireEvent.click(screen.getByRole('button', { name }));
    open(/^Verse room, chorus hall/);
    expect(question('Which section has the hall?').value).toBe('chorus');
    open(/^Swell into a word/);
    expect(question('The first word of which section?').value).toBe('verse');
  });

  it('listens, builds in one step, shows what it built and takes it back', async () => {
    const { looks, chosen, performed, store } = drawer();
    press('Build it');
    await listened(looks);
    expect(looks[0]!.job.kind).toBe('phrases');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Listening…' }).disabled).toBe(true);
    looks[0]!.answer(WORDS);
    expect(await screen.findByRole('heading', { name: 'Built' })).toBeTruthy();
    expect(performed).toEqual([`Recipe: ${RECIPES[0]!.name}`]);
    expect(store.getState().jobs).toEqual([]);
    const { returns, session } = store.getState().document;
    expect(session.returnIds).toHaveLength(1);
    expect(chosen).toEqual(session.returnIds);
    expect(returns[session.returnIds[0]!]!.insertIds).toHaveLength(2);
    press('Show it in the routing');
    expect(store.getState().view).toBe('routing');
    press('Take it back');
    expect(store.getState().document.session.returnIds).toEqual([]);
    press('Build it');
    await waitFor(() => expect(looks).toHaveLength(2));
    looks[1]!.answer(WORDS);
    fireEvent.click(await screen.findByRole('button', { name: 'Build another' }));
    expect(screen.getByRole('button', { name: 'Build it' })).toBeTruthy();
  });

  it('says that a track is silent and what to do, and changes nothing', async () => {
    const { looks, performed, store } = drawer();
    press('Build it');
    await listened(looks);
    await act(async () => looks[0]!.answer({ ...WORDS, phrases: [], levelDb: null }));
    expect((await screen.findByRole('alert')).textContent).toBe(
      'Harp is silent: there are no words to sink under. Put a clip on it first, or choose another track.',
    );
    expect([performed, store.getState().jobs]).toEqual([[], []]);
    expect(screen.getByRole('button', { name: 'Build it' })).toBeTruthy();
  });

  it('is as before when listening was given up', async () => {
    const { looks, performed, store } = drawer();
    press('Build it');
    await listened(looks);
    await act(async () => looks[0]!.refuse(new KinetikonError('work.cancelled', 'Given up.')));
    expect(screen.queryByRole('alert')).toBeNull();
    expect(screen.getByRole('button', { name: 'Build it' })).toBeTruthy();
    expect([performed, store.getState().jobs]).toEqual([[], []]);
  });

  it('opens one recipe at a time', () => {
    const { store } = drawer();
    const [first, second] = RECIPES;
    fireEvent.click(screen.getByRole('button', { name: new RegExp(`^${second!.name}`) }));
    expect(store.getState().cooking).toBe(second!.id);
    for (const question of second!.questions.filter(({ when }) => !when)) {
      expect(screen.getByRole('combobox', { name: question.text })).toBeTruthy();
    }
    expect(screen.queryByRole('combobox', { name: first!.questions[2]!.text })).toBeNull();
  });
});
