import pino from 'pino';

/** Lines of JSON on standard output; none in unit tests. */
const logger = pino({
  level: process.env.NODE_ENV === 'test' ? 'silent' : 'info',
  base: null,
  timestamp: () => `,"at":"${new Date().toISOString()}"`,
  formatters: { level: (level) => ({ level }) },
});

/** One line a happening. */
export function log(event: string, details: Record<string, unknown> = {}): void {
  logger.info({ event, ...details });
}
