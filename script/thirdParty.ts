/** Writes THIRD-PARTY.md, what the product is made with and under which licence: `npm run licences`. */
import { readFileSync, writeFileSync } from 'node:fs';

interface Package {
  readonly version: string;
  readonly license?: string;
  readonly dependencies?: Readonly<Record<string, string>>;
}

const packageOf = (path: string) => JSON.parse(readFileSync(`${path}/package.json`, 'utf8')) as Package;

/** What stands inside of packages that were compiled from something else. */
const WITHIN: Readonly<Record<string, string>> = {
  'mpg123-decoder': 'MIT; mpg123 within: LGPL-2.1',
  'ogg-opus-decoder': 'MIT; libopus within: BSD-3-Clause',
  '@wasm-audio-decoders/ogg-vorbis': 'MIT; libogg and libvorbis within: BSD-3-Clause',
  '@wasm-audio-decoders/flac': 'MIT; libFLAC within: BSD-3-Clause',
  libflacjs: 'MIT; libFLAC within: BSD-3-Clause',
};

const direct = Object.keys(packageOf('.').dependencies ?? {});
const rows = [...direct, 'codec-parser'].sort().map((name) => {
  const { version, license } = packageOf(`node_modules/${name}`);
  return `| ${name} | ${version} | ${WITHIN[name] ?? license ?? 'see its own file'} |`;
});
writeFileSync(
  'THIRD-PARTY.md',
  `# Third-party software

Kinetikon is under the MIT licence (LICENSE). It is made with these packages, each under its own licence; texts and sources
are in the packages and where those say. Two are under the LGPL and are not linked into our own files: \`mpg123\`, which reads
MP3, and \`codec-parser\`, which finds the frames of FLAC and Ogg. In the browser they are files of their own in
\`public/audio/parts\`; in Node \`node_modules/mpg123-decoder\` and \`dist/codecParser.cjs\`: either can be exchanged for another version.

| package | version | licence |
| --- | --- | --- |
${rows.join('\n')}
`,
);
