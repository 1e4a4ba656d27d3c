import { startCluster, type Cluster } from './cluster';

const shared = globalThis as typeof globalThis & { kinetikonCluster?: Cluster };

/** Before the tests that run on a PostgreSQL server. */
export default async function setUp(): Promise<void> {
  shared.kinetikonCluster = await startCluster();
}
