import { StartPage } from '@/features/start/StartPage';
import { database } from '@/server/db/client';
import { hasDemo } from '@/server/demo';
import { listSessions } from '@/server/repositories/sessionList';

export const dynamic = 'force-dynamic';

export default async function Page() {
  const db = await database();
  return <StartPage initial={await listSessions(db)} demo={await hasDemo(db)} />;
}
