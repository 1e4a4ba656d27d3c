/** A process that tries to lock folders at given moments and tells whether it got them. */
import { lockFolder } from '@/server/db/lock';

process.on('message', ({ folder, at }: { folder: string; at: number }) => {
  while (Date.now() < at);
  let got: boolean;
  try {
    lockFolder(folder);
    got = true;
  } catch (error) {
    got = false;
    if (!(error as Error).message.includes('is in use by process')) throw error;
  }
  process.send!({ folder, got });
});
