import { uploadAsset } from '@/server/handlers/assets';

export const dynamic = 'force-dynamic';
export const POST = uploadAsset;
