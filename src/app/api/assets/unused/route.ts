import { listUnused, sweepUnused } from '@/server/handlers/assets';

export const dynamic = 'force-dynamic';
export const GET = listUnused;
export const DELETE = sweepUnused;
