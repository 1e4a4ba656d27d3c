import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { damaged } from '../../test/support/damaged';
import { tamperedWith } from '../../test/support/hostile';
import { ownHome } from '../../test/support/database';
import { ask } from '../../test/support/requests';
import { sine } from '../../test/support/render';
import { RUNS_ALL } from '../../test/support/sweep';
import { writeFlac } from '@/core/formats/flac';
import { writeWav } from '@/core/formats/wav';
import { SeededRandom } from '@/core/math/random';
import { documentChanges } from '@/core/session/changes';
import { documentChecksum } from '@/core/session/checksum';
import { applyCommand } from '@/core/session/commands';
import { compile } from '@/core/session/compile/compiler';
import { historyChange, remember } from '@/core/session/history';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import { newDocument } from '@/core/session/records/factories';
import type { SessionDocument } from '@/core/session/records/document';
import { closeDatabase, database } from './db/client';
import { downloadAsset, uploadAsset } from './handlers/assets';
import { createPreset, removePreset, setFavourite } from './handlers/presets';
import { foldAllChanges } from './repositories/sessionDocuments';
import { changeSession, createSession, loadSession, removeSession, saveSession } from './handlers/sessions';

jest.setTimeout(3600000);

/** Inputs in all. */
const INPUTS = RUNS_ALL ? 20000 : 1000;

describe('hostile requests', () => {
  let remove: () => Promise<void>;
  const demo = JSON.parse(readFileSync('demo/session.json', 'utf8')) as SessionDocument;
  let sessionId = '';

  beforeAll(async () => {
    remove = await ownHome();
    const made = await createSession(ask('POST', { name: 'Held', document: { ...newDocument('Held'), ...demo } }));
    sessionId = ((await made.json()) as { id: string }).id;
  });

  afterAll(async () => {
    await foldAllChanges(await database());
    await closeDatabase();
    await remove();
  });

  /** Every answer says what is wrong, and none is a failure of the server. */
  const expectAnswered = async (response: Response, input: string) => {
    const text = response.status >= 400 ? await response.text() : '';
    if (response.status < 500 && (text === '' || text.includes('"message":"'))) return;
    throw new Error(`${input}: ${response.status} ${text}`);
  };

  const share = (part: number) => Array.from({ length: Math.ceil(INPUTS * part) }, (_, n) => n + 1);

  it('with documents of any kind get an answer', async () => {
    for (const seed of share(0.35)) {
      const document = tamperedWith({ ...newDocument('Tide'), ...demo }, new SeededRandom(seed));
      const response = await createSession(ask('POST', { document }));
      await expectAnswered(response, `document ${seed}`);
      // All that is taken also plays.
      if (response.status === 201) compile(((await response.json()) as { document: SessionDocument }).document);
    }
  });

  it('with documents of older versions get an answer', async () => {
    const versions = [1, 2, 3, 4, 5, 7].map(
      (version) => JSON.parse(readFileSync(`test/fixtures/session-${version}.json`, 'utf8')) as unknown,
    );
    for (const seed of share(0.2)) {
      const document = tamperedWith(versions[seed % versions.length], new SeededRandom(seed));
      await expectAnswered(await createSession(ask('POST', { document })), `older document ${seed}`);
    }
  });

  it('with steps of any kind get an answer', async () => {
    const base = { ...newDocument('Tide'), ...demo };
    const { document, step } = applyCommand(base, { type: 'track.add', id: 'one', name: 'One' }, 'Add a track');
    const history = remember(EMPTY_HISTORY, step);
    const save = {
      revision: 1,
      saveId: randomUUID(),
      unanswered: [],
      changes: documentChanges(base, document),
      checksum: documentChecksum(document),
      history: historyChange(EMPTY_HISTORY, history),
    };
    for (const seed of share(0.2)) {
      const body = tamperedWith(save, new SeededRandom(seed));
      await expectAnswered(await saveSession(ask('PUT', body), sessionId), `save ${seed}`);
    }
  });

  it('with presets and other small things get an answer', async () => {
    const preset = {
      format: 'kinetikon.preset',
      version: 1,
      kind: 'chain',
      name: 'Tide hall',
      tags: ['space'],
      effects: [
        { effect: 'reverb', bypass: false, values: { decay: 2, decayOctaves: '125:1.3,4000:0.7', shape: 'hall' } },
        { effect: 'delay', bypass: false, values: { 'lines.1.timeLeft': '1/8d', mix: 30 } },
      ],
    };
    for (const seed of share(0.2)) {
      const random = new SeededRandom(seed);
      await expectAnswered(await createPreset(ask('POST', tamperedWith(preset, random))), `preset ${seed}`);
      const favourite = tamperedWith({ id: 'factory/reverb/hall', on: true }, random);
      await expectAnswered(await setFavourite(ask('PUT', favourite)), `favourite ${seed}`);
      const change = tamperedWith({ name: 'Neap', binned: false }, random);
      await expectAnswered(await changeSession(ask('PATCH', change), sessionId), `change ${seed}`);
    }
  });

  it('with damaged sounds get an answer', async () => {
    const channels = [sine(440, 48000, 4800), sine(220, 48000, 4800)];
    const sounds = [
      writeWav({ sampleRateHz: 48000, channels }, '24'),
      writeWav({ sampleRateHz: 48000, channels }, '32f'),
      await writeFlac({ sampleRateHz: 48000, channels }, 24),
    ];
    for (const seed of share(0.05)) {
      const bytes = damaged(sounds[seed % sounds.length]!, seed);
      const request = ask('POST', bytes, { 'x-file-name': encodeURIComponent(`sound ${seed}.wav`) });
      await expectAnswered(await uploadAsset(request), `sound ${seed}`);
    }
  });

  it.each(['\0', 'a\0b', '\ud800', '😀', '../..', '', ' ', 'constructor', '__proto__', 'x'.repeat(81), "' or 1=1"])(
    'about the id %j are answered with 404',
    async (id) => {
      const answers = await Promise.all([
        loadSession(ask('POST', {}), id),
        saveSession(ask('PUT', {}), id),
        changeSession(ask('PATCH', { name: 'x' }), id),
        removeSession(ask('DELETE', {}), id),
        removePreset(ask('DELETE', {}), id),
        downloadAsset(ask('POST', {}), id),
      ]);
      expect(answers.map(({ status }) => status)).toEqual([404, 404, 404, 404, 404, 404]);
    },
  );

  it('leave what was stored as it was', async () => {
    const stored = (await (await loadSession(ask('POST', {}), sessionId)).json()) as { document: SessionDocument };
    expect(Object.keys(stored.document.tracks).length).toBeGreaterThanOrEqual(Object.keys(demo.tracks).length);
  });
});
