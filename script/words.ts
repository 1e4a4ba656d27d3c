/**
 * Lists every text that the product can show in docs/words.md, by the file that holds it: for reviewers, who read them in
 * one go. `npm run words` writes it; with `--check` it fails when the table is not that of the sources.
 */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import ts from 'typescript';

const LIST = 'docs/words.md';
/** Sources with texts for people. */
const FOLDERS = ['src/app', 'src/features', 'src/core', 'src/runtime', 'src/server', 'src/cli'];
/** Attributes whose values are read or spoken. */
const SPOKEN = new Set(['aria-label', 'aria-description', 'title', 'placeholder', 'label', 'data-help', 'alt', 'name']);
/** Calls whose texts are for developers or machines. */
const SILENT = new Set(['log', 'Error', 'sql', 'jest', 'require', 'css', 'fetch']);

const sources = FOLDERS.flatMap((folder) =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((file) => /\.tsx?$/.test(file) && !/\.(test|generated|as)\./.test(file))
    .map((file) => `${folder}/${file}`),
).sort();

/** A text as it reads, with `…` for what is put in. */
function textOf(node: ts.Node): string | null {
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return node.text;
  if (ts.isTemplateExpression(node)) {
    return node.head.text + node.templateSpans.map(({ literal }) => `…${literal.text}`).join('');
  }
  if (ts.isJsxText(node)) return node.text.replace(/\s+/g, ' ').trim();
  return null;
}

/** Words rather than an id, a path, a class or a unit of code. */
const isWords = (text: string) =>
  /[A-Za-z]{2}/.test(text) &&
  !/^[\w-]+\/|^[.#@&?/]|^--|[{}<>]|=>|^https?:|^use /.test(text) &&
  /^\P{Ll}|\s/u.test(text);

function isSilent(node: ts.Node): boolean {
  for (let up: ts.Node | undefined = node.parent; up; up = up.parent) {
    if (ts.isImportDeclaration(up) || ts.isExportDeclaration(up) || ts.isTypeNode(up)) return true;
    if (ts.isTaggedTemplateExpression(up)) return true;
    if (ts.isJsxAttribute(up)) return !SPOKEN.has(up.name.getText());
    if (ts.isCallExpression(up) || ts.isNewExpression(up)) return SILENT.has(up.expression.getText());
    if (ts.isStatement(up)) return false;
  }
  return false;
}

function textsOf(file: string): string[] {
  const source = ts.createSourceFile(
    file,
    readFileSync(file, 'utf8'),
    ts.ScriptTarget.Latest,
    true,
    file.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const texts = new Set<string>();
  const visit = (node: ts.Node) => {
    const text = textOf(node);
    if (text !== null && !isSilent(node) && (ts.isJsxText(node) ? /\p{L}{2}/u.test(text) : isWords(text)))
      texts.add(text);
    ts.forEachChild(node, visit);
  };
  visit(source);
  return [...texts];
}

const cell = (text: string) => text.replace(/\s+/g, ' ').replaceAll('|', '\\|').trim();
const rows = sources.flatMap((file) =>
  textsOf(file).map((text) => `| ${cell(text)} | ${file.replace(/^src\//, '')} |`),
);
const list = `# Words on the screen

Every text that the product can show, by \`npm run words\`; \`…\` stands for what is put in.

| text | file |
| --- | --- |
${rows.join('\n')}
`;
if (!process.argv.includes('--check')) writeFileSync(LIST, list);
else if (readFileSync(LIST, 'utf8') !== list) {
  process.stderr.write(`${LIST} is out of date: npm run words\n`);
  process.exitCode = 1;
}
