/** AssemblyScript decorates functions with `@inline`, which TypeScript's parsers refuse: tools read it as a comment instead. */
export const maskInline = (text) => text.replaceAll(/^@inline$/gm, '// @inline');

export const unmaskInline = (text) => text.replaceAll(/^\/\/ @inline$/gm, '@inline');
