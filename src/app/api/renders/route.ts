import { listRenders, orderRender } from '@/server/handlers/renders';

export const dynamic = 'force-dynamic';
export const GET = listRenders;
export const POST = orderRender;
