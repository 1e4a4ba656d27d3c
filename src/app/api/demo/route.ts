import { listDemoSounds, openDemo } from '@/server/handlers/sessions';

export const dynamic = 'force-dynamic';
export const GET = listDemoSounds;
export const POST = openDemo;
