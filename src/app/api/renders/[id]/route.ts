import { cancelRender, findRender } from '@/server/handlers/renders';

type Context = { params: Promise<{ id: string }> };

export const dynamic = 'force-dynamic';
export const GET = async (request: Request, { params }: Context) => findRender(request, (await params).id);
export const DELETE = async (request: Request, { params }: Context) => cancelRender(request, (await params).id);
