/**
 * Formats the AssemblyScript sources, or checks them with --check. Prettier refuses decorators of functions, so they are
 * turned into comments meanwhile.
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import prettier from 'prettier';

const FOLDER = 'src/core/wasm';
const check = process.argv.includes('--check');

for (const name of readdirSync(FOLDER).filter((one) => one.endsWith('.as.ts'))) {
  const path = join(FOLDER, name);
  const text = readFileSync(path, 'utf8');
  const masked = text.replaceAll(/^@inline$/gm, '// @inline');
  const formatted = await prettier.format(masked, { ...(await prettier.resolveConfig(path)), filepath: path });
  const wanted = formatted.replaceAll(/^\/\/ @inline$/gm, '@inline');
  if (wanted === text) continue;
  if (check) {
    console.error(`${path} is not formatted: npm run format`);
    process.exitCode = 1;
  } else writeFileSync(path, wanted);
}
