import { readFileSync } from 'node:fs';

describe('the list of licences', () => {
  it('names every package that the product is made with, in its version', () => {
    const list = readFileSync('THIRD-PARTY.md', 'utf8').replaceAll(/ +\|/g, ' |');
    const { dependencies } = JSON.parse(readFileSync('package.json', 'utf8')) as {
      dependencies: Record<string, string>;
    };
    const missing = Object.entries(dependencies).filter(
      ([name, version]) => !list.includes(`| ${name} | ${version} |`),
    );
    // `npm run licences` writes it.
    expect(missing).toEqual([]);
  });
});
