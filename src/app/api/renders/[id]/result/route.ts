import { downloadResult } from '@/server/handlers/renders';

type Context = { params: Promise<{ id: string }> };

export const dynamic = 'force-dynamic';
export const GET = async (request: Request, { params }: Context) => downloadResult(request, (await params).id);
