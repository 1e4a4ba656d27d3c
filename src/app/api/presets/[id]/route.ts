import { removePreset } from '@/server/handlers/presets';

type Context = { params: Promise<{ id: string }> };

export const dynamic = 'force-dynamic';
export const DELETE = async (request: Request, { params }: Context) => removePreset(request, (await params).id);
