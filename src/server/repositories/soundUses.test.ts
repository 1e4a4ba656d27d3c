import { sql } from 'drizzle-orm';
import { openOwn } from '../../../test/support/database';
import { saveOf } from '../../../test/support/requests';
import { SEED, thinned } from '../../../test/support/sweep';
import type { PresetFile } from '@/core/formats/preset';
import { SeededRandom } from '@/core/math/random';
import { documentChanges } from '@/core/session/changes';
import { documentChecksum } from '@/core/session/checksum';
import { applyCommand, type Command } from '@/core/session/commands';
import { historyChange, remember, undo } from '@/core/session/history';
import { EMPTY_HISTORY } from '@/core/session/storedHistory';
import type { SessionDocument } from '@/core/session/records/document';
import { newDocument } from '@/core/session/records/factories';
import type { OpenDatabase } from '../db/database';
import { createPreset, removePreset } from './presets';
import { foldChanges } from './sessionDocuments';
import { createSession, removeSession, saveSession } from './sessions';

let open: OpenDatabase;

beforeAll(async () => {
  open = await openOwn();
});

afterAll(() => open.close());

/** Every record that names a sound, found by reading all records: what the table of uses is to hold. */
const SEARCH = sql`
  select sound, kind, owner, part from (
    select (regexp_matches(document::text, '[0-9a-f]{64}', 'g'))[1] as sound, 'session' as kind, id as owner, 0 as part from sessions
    union select (regexp_matches(changes::text, '[0-9a-f]{64}', 'g'))[1], 'session', session_id, 0 from session_changes
    union select (regexp_matches(step::text, '[0-9a-f]{64}', 'g'))[1], 'step', session_id, number from session_steps
    union select (regexp_matches(content::text, '[0-9a-f]{64}', 'g'))[1], 'preset', id, 0 from presets
  ) as found order by 1, 2, 3, 4`;
const TABLE = sql`select sound_id as sound, kind, owner_id as owner, part from sound_uses order by 1, 2, 3, 4`;

const rowsOf = async (query: typeof SEARCH) => ((await open.db.execute(query)) as unknown as { rows: unknown[] }).rows;

/** A session that somebody works on. */
interface Open {
  readonly id: string;
  revision: number;
  document: SessionDocument;
  saved: SessionDocument;
  history: typeof EMPTY_HISTORY;
  savedHistory: typeof EMPTY_HISTORY;
}

describe('the table of uses', () => {
  it('holds what a search of all records finds, after whatever people do', async () => {
    const random = new SeededRandom(SEED);
    const draw = (count: number) => Math.floor(random.uniform() * count);
    const soundId = () => draw(30).toString(16).padStart(2, '0').repeat(32);
    const sessions: Open[] = [];
    const presets: string[] = [];
    const some = <T>(list: readonly T[]) => list[draw(list.length)]!;
    const begin = async () => {
      const { id, revision, document } = await createSession(open.db, newDocument('Uses'));
      const fresh = { history: EMPTY_HISTORY, savedHistory: EMPTY_HISTORY };
      sessions.push({ id, revision, document, saved: document, ...fresh });
    };
    const edit = (one: Open) => {
      const id = soundId();
      const asset = { id, name: 'a.wav', frames: 480, sampleRateHz: 48000, channels: 1 };
      const add: Command = { type: 'asset.add', asset };
      const { document, step } = applyCommand(one.document, add, 'Add');
      if (step.forward.length === 0) return;
      one.document = document;
      one.history = remember(one.history, step);
    };
    const back = (one: Open) => {
      const there = undo(one.document, one.history);
      if (there) Object.assign(one, there);
    };
    const save = async (one: Open, whole: boolean) => {
      const changes = whole ? {} : { document: undefined, changes: documentChanges(one.saved, one.document) };
      one.revision = await saveSession(open.db, one.id, {
        ...saveOf(one.revision, one.document),
        ...changes,
        checksum: documentChecksum(one.document),
        history: historyChange(one.savedHistory, one.history),
      });
      one.saved = one.document;
      one.savedHistory = one.history;
    };
    const preset = async () => {
      const effects = [{ effect: 'convolution', bypass: false, values: { impulse: soundId() } }];
      const file = { format: 'kinetikon.preset', version: 1, kind: 'effect', name: 'Own', tags: [], effects };
      presets.push((await createPreset(open.db, file as unknown as PresetFile)).id);
    };
    await begin();
    await preset();
    const acts = thinned(1000);
    for (let act = 0; act < acts; act++) {
      const one = some(sessions);
      await [
        async () => edit(one),
        async () => edit(one),
        async () => back(one),
        async () => save(one, false),
        async () => save(one, true),
        async () => foldChanges(open.db, one.id),
        preset,
        async () => {
          if (presets.length > 3) await removePreset(open.db, presets.shift()!);
        },
        async () => {
          if (sessions.length < 4) await begin();
          else await removeSession(open.db, sessions.shift()!.id);
        },
      ][draw(9)]!();
      if (act % 20 === 19) expect(await rowsOf(TABLE)).toEqual(await rowsOf(SEARCH));
    }
    const kinds = new Set((await rowsOf(TABLE)).map((row) => (row as { kind: string }).kind));
    expect(kinds).toEqual(new Set(['preset', 'session', 'step']));
  });
});
