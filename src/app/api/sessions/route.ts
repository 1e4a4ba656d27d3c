import { createSession, listSessions } from '@/server/handlers/sessions';

export const dynamic = 'force-dynamic';
export const GET = listSessions;
export const POST = createSession;
