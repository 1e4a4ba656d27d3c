import { Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client';

interface Metrics {
  readonly registry: Registry;
  /** Duration of answers in seconds. */
  readonly requests: Histogram<'method' | 'route' | 'status'>;
  readonly renders: Gauge<'state'>;
  readonly workers: Gauge;
}

function newMetrics(): Metrics {
  const registry = new Registry();
  collectDefaultMetrics({ register: registry });
  const registers = [registry];
  return {
    registry,
    requests: new Histogram({
      name: 'kinetikon_request_seconds',
      help: 'Duration of answers by method, route and status',
      labelNames: ['method', 'route', 'status'],
      buckets: [0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2, 10, 60],
      registers,
    }),
    renders: new Gauge({ name: 'kinetikon_renders', help: 'Renders by state', labelNames: ['state'], registers }),
    workers: new Gauge({ name: 'kinetikon_workers', help: 'Workers that are alive', registers }),
  };
}

/** Next loads this module once for each of its bundles; they share the figures. */
const shared = globalThis as typeof globalThis & { kinetikonMetrics?: Metrics };

export const metrics: Metrics = (shared.kinetikonMetrics ??= newMetrics());

/** The path of a request with its ids left out, so that there are few of them. */
export const routeOf = (path: string): string =>
  path.replace(/[0-9a-f]{8}-[0-9a-f-]{27}|[0-9a-f]{64}/g, ':id').slice(0, 60);
