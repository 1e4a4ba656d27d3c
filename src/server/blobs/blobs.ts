import { isAbsolute } from 'node:path';
import { KinetikonError } from '@/core/errors';
import type { Database } from '../db/database';
import type { BlobHome } from './blobHome';
import { FolderBlobs } from './folderBlobs';
import { RowBlobs } from './rowBlobs';
import { S3Blobs } from './s3Blobs';

const S3 = /^s3:\/\/([a-z0-9][a-z0-9.-]{1,61}[a-z0-9])$/;

/**
 * The home of blobs that a setting names: `rows` or nothing, an absolute folder, or `s3://BUCKET`.
 * @throws KinetikonError usage
 */
export function blobHome(db: Database, setting = process.env.KINETIKON_BLOBS ?? 'rows'): BlobHome {
  if (setting === '' || setting === 'rows') return new RowBlobs(db);
  if (isAbsolute(setting)) return new FolderBlobs(setting);
  const bucket = S3.exec(setting)?.[1];
  if (bucket) return new S3Blobs(bucket, process.env);
  throw new KinetikonError(
    'usage',
    `KINETIKON_BLOBS takes "rows", an absolute folder or s3://BUCKET, not "${setting}".`,
  );
}

const homes = new WeakMap<Database, BlobHome>();

/** The home of blobs beside a database, as the environment names it. */
export function blobsOf(db: Database): BlobHome {
  let home = homes.get(db);
  if (!home) {
    home = blobHome(db);
    homes.set(db, home);
  }
  return home;
}
