import { promises as files } from 'node:fs';
import { fullDisk, needRoom, RESERVE } from './disk';
import { answer } from './http';

const withFree = (bytes: number) =>
  jest.spyOn(files, 'statfs').mockResolvedValue({ bavail: bytes / 4096, bsize: 4096 } as never);
const asked = (method: string) =>
  answer(new Request('http://127.0.0.1/api/sessions', { method, headers: { host: '127.0.0.1' } }), async () =>
    Response.json({}),
  );

describe('a disk that fills up', () => {
  afterEach(() => jest.restoreAllMocks());

  it('takes what leaves the reserve, and names itself otherwise', async () => {
    withFree(RESERVE.sounds + 1000 * 4096);
    await needRoom(1000 * 4096, RESERVE.sounds);
    await expect(needRoom(1001 * 4096, RESERVE.sounds)).rejects.toMatchObject({ code: 'storage.full' });
  });

  it('lets nothing be written once the reserve is reached, but read and removed', async () => {
    withFree(RESERVE.sessions - 4096);
    const statuses = await Promise.all(['POST', 'PUT', 'PATCH', 'GET', 'DELETE'].map(asked));
    expect(statuses.map(({ status }) => status)).toEqual([507, 507, 507, 200, 200]);
    expect(await statuses[0]!.json()).toMatchObject({ error: { message: 'The disk is nearly full: 47 MB are left.' } });
  });

  it('is found behind the error of a database and of a file', () => {
    const database = new Error('Failed query', { cause: Object.assign(new Error('x'), { code: '53100' }) });
    expect(fullDisk(database)).toMatchObject({ code: 'storage.full' });
    expect(fullDisk(Object.assign(new Error('write'), { code: 'ENOSPC' }))).toBeDefined();
    expect(fullDisk(new Error('other'))).toBeUndefined();
  });
});
