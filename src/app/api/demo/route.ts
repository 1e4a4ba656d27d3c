import { openDemo } from '@/server/handlers/sessions';

export const dynamic = 'force-dynamic';
export const POST = openDemo;
