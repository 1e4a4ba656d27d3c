import { setFavourite } from '@/server/handlers/presets';

export const dynamic = 'force-dynamic';
export const PUT = setFavourite;
