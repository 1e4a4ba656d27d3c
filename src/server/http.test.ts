import * as yup from 'yup';
import { isServed } from './hosts';
import { answer, readJson } from './http';

const asked = (method: string, headers: Record<string, string>) =>
  answer(new Request('http://127.0.0.1:3000/api/sessions', { method, headers }), async () => Response.json({}));

describe('who is answered', () => {
  it.each(['localhost', 'localhost:3000', '127.0.0.1:3000', '127.8.9.1', '[::1]:80', '[::1]', 'LOCALHOST:3'])(
    '%s is',
    (host) => expect(isServed(host)).toBe(true),
  );
  it.each([
    null,
    '',
    'evil.example',
    'evil.example:3000',
    '127.0.0.1.evil.example',
    'localhost.evil.example',
    '[::2]',
    'x',
  ])('%s is not, unless it is configured', (host) => {
    expect(isServed(host)).toBe(false);
    expect(isServed(host, 'studio.example, evil.example:80')).toBe(host?.startsWith('evil.example') ?? false);
  });
});

describe('requests that change something', () => {
  const host = '127.0.0.1:3000';

  it.each([
    ['from another site', { host, origin: 'http://evil.example' }],
    ['from a page without an origin', { host, origin: 'null' }],
    ['from what is no origin', { host, origin: 'nowhere at all' }],
    ['that the browser says come from elsewhere', { host, 'sec-fetch-site': 'cross-site' }],
  ])('are refused %s', async (_, headers) => {
    for (const method of ['POST', 'PUT', 'DELETE', 'PATCH']) {
      const response = await asked(method, headers);
      expect(response.status).toBe(403);
      expect(await response.json()).toMatchObject({ error: { code: 'request.origin' } });
    }
  });

  it('are done from the application itself, and from tools', async () => {
    expect((await asked('POST', { host, origin: `http://${host}`, 'sec-fetch-site': 'same-origin' })).status).toBe(200);
    expect((await asked('POST', { host })).status).toBe(200);
    expect((await asked('GET', { host, origin: 'null' })).status).toBe(200);
  });

  it('are read up to a size and checked', async () => {
    const read = (text: string, most = 100) =>
      readJson(
        new Request('http://h/', { method: 'POST', body: text }),
        yup.object({ a: yup.number().required() }),
        most,
      );
    expect(await read('{"a":1}')).toEqual({ a: 1 });
    await expect(read('{"a":"x"}')).rejects.toMatchObject({ code: 'request.invalid' });
    await expect(read('{')).rejects.toMatchObject({ code: 'request.invalid' });
    await expect(read(`{"a":${'1'.repeat(200)}}`)).rejects.toThrow('larger than 100 bytes');
  });
});
