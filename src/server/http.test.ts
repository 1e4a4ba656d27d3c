import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import * as yup from 'yup';
import { OWNER_HEADER } from '@/core/protocol/http';
import { lockFolder, serverOf } from './db/lock';
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

describe('a command that means the server of a data folder', () => {
  it('is answered by that server alone', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'kinetikon-owner-'));
    const { KINETIKON_DATA, KINETIKON_URL } = process.env;
    Object.assign(process.env, { KINETIKON_DATA: folder, KINETIKON_URL: 'http://127.0.0.1:3000' });
    const unlock = lockFolder(folder);
    try {
      const { url, token } = serverOf(folder)!;
      expect(url).toBe('http://127.0.0.1:3000');
      expect((await asked('GET', { [OWNER_HEADER]: token })).status).toBe(200);
      const refused = await asked('GET', { [OWNER_HEADER]: 'that of another folder' });
      expect([refused.status, (await refused.json()).error.message]).toEqual([
        503,
        'The server at this address has another data folder.',
      ]);
      expect(statSync(join(folder, 'owner.json')).mode & 0o777).toBe(0o600);
      unlock();
      expect(serverOf(folder)).toBeNull();
      expect((await asked('GET', { [OWNER_HEADER]: token })).status).toBe(503);
    } finally {
      unlock();
      for (const [name, value] of Object.entries({ KINETIKON_DATA, KINETIKON_URL })) {
        if (value === undefined) delete process.env[name];
        else process.env[name] = value;
      }
      rmSync(folder, { recursive: true });
    }
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
