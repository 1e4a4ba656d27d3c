import { showMetrics } from '@/server/handlers/operation';

export const dynamic = 'force-dynamic';
export const GET = showMetrics;
