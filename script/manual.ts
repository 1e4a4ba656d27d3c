import { readFileSync, writeFileSync } from 'node:fs';
import { marked, type Tokens } from 'marked';

const FOLDER = 'docs/manual';

/** Pages in the order of the table in the manual's own README. */
function pageIds(): string[] {
  return [...readFileSync(`${FOLDER}/README.md`, 'utf8').matchAll(/\]\(([\w-]+)\.md\)/g)].map(([, id]) => id!);
}

/** Links to other pages open them in place; the text is our own, so that it needs no cleaning. */
function html(tokens: Tokens.Generic[]): string {
  const renderer = new marked.Renderer();
  renderer.link = ({ href, text }) => `<a href="#${href.replace(/\.md(#.*)?$/, '')}">${text}</a>`;
  return marked.parser(tokens as never, { renderer }).trim();
}

/** Writes the pages of the manual, cut at their headings, for the application's help. */
export function buildManual(): void {
  const pages = pageIds().map((id) => {
    const tokens = marked.lexer(readFileSync(`${FOLDER}/${id}.md`, 'utf8')) as Tokens.Generic[];
    const title = (tokens[0] as Tokens.Heading).text;
    const sections: { title: string; html: string }[] = [];
    let head: string | null = null;
    let body: Tokens.Generic[] = [];
    const flush = () => {
      if (body.some(({ type }) => type !== 'space')) sections.push({ title: head ?? '', html: html(body) });
      body = [];
    };
    for (const token of tokens.slice(1)) {
      if (token.type === 'heading') {
        flush();
        head = (token as Tokens.Heading).text;
      } else body.push(token);
    }
    flush();
    return { id, title, sections };
  });
  writeFileSync(
    'src/features/help/manual.generated.ts',
    [
      '/** docs/manual, by script/manual.ts. */',
      "import type { ManualPage } from './manual';",
      '',
      `export const MANUAL: readonly ManualPage[] = ${JSON.stringify(pages, null, 2)};`,
      '',
    ].join('\n'),
  );
}
