import { downloadAsset } from '@/server/handlers/assets';

export const dynamic = 'force-dynamic';
export const GET = async (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  downloadAsset(request, (await params).id);
