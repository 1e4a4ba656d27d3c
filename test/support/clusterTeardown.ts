import type { Cluster } from './cluster';

/** After the tests that ran on a PostgreSQL server. */
export default function tearDown(): void {
  (globalThis as typeof globalThis & { kinetikonCluster?: Cluster }).kinetikonCluster?.stop();
}
