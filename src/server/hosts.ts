const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])$/;

/**
 * True for loopback names and those configured. A page elsewhere may give its own name our address ("DNS rebinding");
 * its requests then come here under that name and count as its own to the browser.
 * @param header of the request, with or without a port
 * @param configured names with commas between them
 */
export function isServed(header: string | null, configured = ''): boolean {
  const host = (header ?? '').trim().toLowerCase().replace(/:\d+$/, '');
  const names = configured.split(',').map((name) => name.trim().toLowerCase().replace(/:\d+$/, ''));
  return LOOPBACK.test(host) || (host !== '' && names.includes(host));
}
