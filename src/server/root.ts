import { join } from 'node:path';

/**
 * The folder of the installation, in which migrations, bundles and demo lie. Entry points in `dist` name it; everything
 * else is started from within it.
 */
export const ROOT = process.env.KINETIKON_ROOT ?? process.cwd();

export const MIGRATIONS_FOLDER = join(/* turbopackIgnore: true */ ROOT, 'src/server/db/migrations');
