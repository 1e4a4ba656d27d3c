import { existsSync, readdirSync, readFileSync } from 'node:fs';

const dockerfile = readFileSync('Dockerfile', 'utf8');
const compose = readFileSync('compose.yaml', 'utf8');
const { scripts } = JSON.parse(readFileSync('package.json', 'utf8')) as { scripts: Record<string, string> };
const sources = readdirSync('src', { recursive: true, encoding: 'utf8' })
  .filter((path) => path.endsWith('.ts'))
  .map((path) => readFileSync(`src/${path}`, 'utf8'))
  .join('\n');

describe('the image and the composition of a studio', () => {
  it('run scripts and bundles that there are', () => {
    for (const [, script] of dockerfile.matchAll(/npm run ([\w:]+)/g)) expect(Object.keys(scripts)).toContain(script);
    const bundles = readFileSync('script/bundle.ts', 'utf8');
    for (const [, name] of `${dockerfile}${compose}`.matchAll(/dist\/(\w+)\.cjs/g))
      expect(bundles).toContain(`${name}: 'src/`);
    expect(existsSync('bin/kinetikon')).toBe(true);
    expect(scripts.start).toContain('dist/serve.cjs');
  });

  it('set variables that the sources read', () => {
    const set = [...compose.matchAll(/^\s+(KINETIKON_\w+|DATABASE_URL):/gm)].map(([, name]) => name!);
    expect(set.length).toBeGreaterThan(3);
    for (const name of set) expect(sources).toContain(`process.env.${name}`);
  });

  it('start workers as the command line takes them', () => {
    const words = /command: \[(.*'worker'.*)\]/.exec(compose)![1]!.replaceAll(/['\s]/g, '').split(',');
    const usage = readFileSync('src/cli/arguments.ts', 'utf8');
    expect(words.slice(0, 3)).toEqual(['node', 'bin/kinetikon', 'worker']);
    for (const option of words.filter((word) => word.startsWith('--')))
      expect(usage).toMatch(new RegExp(`worker.*${option}`));
  });

  it('take the port on which the server listens', () => {
    const port = /DEFAULT_PORT = (\d+)/.exec(readFileSync('src/server/serve.ts', 'utf8'))![1]!;
    expect(dockerfile).toContain(`EXPOSE ${port}`);
    expect(compose).toContain(`server:${port}`);
  });
});
