import { downloadPeaks } from '@/server/handlers/assets';

export const dynamic = 'force-dynamic';
export const GET = async (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  downloadPeaks(request, (await params).id);
