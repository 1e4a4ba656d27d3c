/** Value behind an option of the command line. */
export const option = (name: string, byDefault: string): string =>
  process.argv.includes(name) ? process.argv[process.argv.indexOf(name) + 1]! : byDefault;
