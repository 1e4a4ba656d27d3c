import { changeSession, loadSession, removeSession, saveSession } from '@/server/handlers/sessions';

type Context = { params: Promise<{ id: string }> };

export const dynamic = 'force-dynamic';
export const GET = async (request: Request, { params }: Context) => loadSession(request, (await params).id);
export const PUT = async (request: Request, { params }: Context) => saveSession(request, (await params).id);
export const PATCH = async (request: Request, { params }: Context) => changeSession(request, (await params).id);
export const DELETE = async (request: Request, { params }: Context) => removeSession(request, (await params).id);
