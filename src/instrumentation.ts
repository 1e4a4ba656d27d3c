/** Opens the data before the first request; when that fails the process says why and ends. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { start } = await import('./server/start');
  await start();
}
