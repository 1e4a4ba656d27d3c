import { createPreset, listPresets } from '@/server/handlers/presets';

export const dynamic = 'force-dynamic';
export const GET = listPresets;
export const POST = createPreset;
