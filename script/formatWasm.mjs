/** Formats the AssemblyScript sources, or checks them with --check. */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import prettier from 'prettier';
import { maskInline, unmaskInline } from './inlineMask.mjs';

const FOLDER = 'src/core/wasm';
const check = process.argv.includes('--check');

for (const name of readdirSync(FOLDER).filter((one) => one.endsWith('.as.ts'))) {
  const path = join(FOLDER, name);
  const text = readFileSync(path, 'utf8');
  const formatted = await prettier.format(maskInline(text), {
    ...(await prettier.resolveConfig(path)),
    filepath: path,
  });
  const wanted = unmaskInline(formatted);
  if (wanted === text) continue;
  if (check) {
    console.error(`${path} is not formatted: npm run format`);
    process.exitCode = 1;
  } else writeFileSync(path, wanted);
}
