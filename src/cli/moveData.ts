import { isAbsolute, resolve } from 'node:path';
import { blobHome } from '@/server/blobs/blobs';
import { openDatabase, type DatabaseHome } from '@/server/db/client';
import { moveData } from '@/server/moveData';
import { one, parseArguments, usage } from './arguments';
import { DATA, homeOf } from './studioData';
import type { Terminal } from './terminal';

const isUrl = (text: string) => /^postgres(ql)?:\/\//.test(text);

/** `data move`: all sessions, sounds and presets into another place. */
export async function changeData(args: readonly string[], terminal: Terminal): Promise<void> {
  const options = parseArguments(args, { ...DATA, '--to': true, '--blobs': true, '--to-blobs': true });
  const [verb, ...others] = options.positional;
  if (verb !== 'move' || others.length > 0) throw usage(`data takes "move", not "${[verb, ...others].join(' ')}".`);
  const to = one(options, '--to');
  if (to === undefined) throw usage('data move needs --to FOLDER or URL.');
  const blobs = (name: string) => {
    const text = one(options, name) ?? 'rows';
    return text === 'rows' || text.startsWith('s3://') || isAbsolute(text) ? text : resolve(text);
  };
  const there: DatabaseHome = isUrl(to) ? { url: to } : { folder: resolve(to) };
  const source = await openDatabase(homeOf(options));
  try {
    const target = await openDatabase(there);
    try {
      const { rows, blobs: sounds } = await moveData(
        { db: source.db, blobs: blobHome(source.db, blobs('--blobs')) },
        { db: target.db, blobs: blobHome(target.db, blobs('--to-blobs')) },
        (done) => terminal.progress(done),
      );
      terminal.out(`${rows} rows and ${sounds} sounds are there, compared row by row and piece by piece.`);
    } finally {
      await target.close();
    }
  } finally {
    await source.close();
  }
}
