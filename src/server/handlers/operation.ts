import { RENDER_VERSIONS } from '@/core/session/renderRequests';
import { RENDER_STATES } from '@/core/protocol/renderStates';
import { messageOf } from '@/core/errors';
import { sql } from 'drizzle-orm';
import { blobsOf } from '../blobs/blobs';
import { configuredHome, database } from '../db/client';
import { answer } from '../http';
import { metrics } from '../metrics';
import { queueOf } from '../renders/renderQueue';
import { countRenders, countWorkers } from '../repositories/renders';

/** A part of the server that works, or why it does not. */
type Part = { readonly works: true } | { readonly works: false; readonly reason: string };

async function partOf(work: () => Promise<unknown>): Promise<Part> {
  try {
    if ((await work()) === false) return { works: false, reason: 'it is not there' };
    return { works: true };
  } catch (error) {
    return { works: false, reason: messageOf(error) };
  }
}

/** Health of database, blobs and queue: 200, or 503 when one of them fails. */
export function health(request: Request): Promise<Response> {
  return answer(request, async () => {
    const db = await database();
    const blobs = blobsOf(db);
    const queue = queueOf(db);
    const parts = {
      database: {
        home: 'url' in configuredHome() ? 'server' : 'folder',
        ...(await partOf(() => db.execute(sql`select 1`))),
      },
      blobs: { home: blobs.name, ...(await partOf(() => blobs.works())) },
      queue: {
        home: queue.isShared ? 'workers' : 'this server',
        ...(await partOf(() => queue.works())),
        workers: await countWorkers(db).catch(() => null),
      },
    };
    const works = Object.values(parts).every((part) => part.works);
    return Response.json({ works, versions: RENDER_VERSIONS, ...parts }, { status: works ? 200 : 503 });
  });
}

/** Figures of the server, in the text format of Prometheus. */
export function showMetrics(request: Request): Promise<Response> {
  return answer(request, async () => {
    const db = await database();
    const counts = await countRenders(db);
    for (const state of RENDER_STATES) metrics.renders.set({ state }, counts.get(state) ?? 0);
    metrics.workers.set(await countWorkers(db));
    return new Response(await metrics.registry.metrics(), {
      headers: { 'Content-Type': metrics.registry.contentType },
    });
  });
}
