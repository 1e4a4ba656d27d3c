import '@/core/wasm/embedded';
import { KinetikonError, messageOf } from '@/core/errors';
import { USAGE, usage } from './arguments';
import { listEffects, measureSound, playNotes, processSound } from './commands';
import { writeImpulse } from './impulses';
import { writeSwell } from './swell';
import type { Terminal } from './terminal';

/** Bad input: one clear line on standard error, exit code 2. */
const BAD_INPUT = 2;

const terminal: Terminal = {
  out: (line) => process.stdout.write(`${line}\n`),
  note: (line) => process.stderr.write(`kinetikon: ${line}\n`),
  progress: (done) => {
    if (process.stderr.isTTY) process.stderr.write(`\r${Math.round(done * 100)} %${done === 1 ? '\n' : ''}`);
  },
};

async function main(): Promise<void> {
  const [command, ...args] = process.argv.slice(2);
  switch (command) {
    case 'effects':
      return listEffects(args, terminal);
    case 'process':
      return processSound(args, terminal);
    case 'play':
      return playNotes(args, terminal);
    case 'impulse':
      return writeImpulse(args, terminal);
    case 'swell':
      return writeSwell(args, terminal);
    case 'measure':
      return measureSound(args, terminal);
    case 'bounce':
      return (await import('./sessionBounce')).bounceSession(args, terminal);
    case 'batch':
      return (await import('./batch')).runBatch(args, terminal);
    case 'worker':
      return (await import('./worker')).runWorker(args, terminal);
    case 'data':
      return (await import('./moveData')).changeData(args, terminal);
    case undefined:
    case 'help':
    case '--help':
      terminal.out(USAGE);
      return;
    default:
      throw usage(`There is no command "${command}".`);
  }
}

process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0);
  throw error;
});

main().catch((error: unknown) => {
  const line = messageOf(error).replaceAll('\n', ' ');
  process.stderr.write(
    error instanceof KinetikonError ? `kinetikon: ${line}\n` : `kinetikon: unexpected failure: ${line}\n`,
  );
  process.exitCode = error instanceof KinetikonError ? BAD_INPUT : 1;
});
