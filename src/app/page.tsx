import { StartPage } from '@/features/start/StartPage';
import { database } from '@/server/db/client';
import { listSessions } from '@/server/repositories/sessions';

export const dynamic = 'force-dynamic';

export default async function Page() {
  return <StartPage initial={await listSessions(await database())} />;
}
