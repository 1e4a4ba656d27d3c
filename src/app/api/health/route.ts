import { health } from '@/server/handlers/operation';

export const dynamic = 'force-dynamic';
export const GET = health;
