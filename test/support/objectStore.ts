import { createHash, randomUUID } from 'node:crypto';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

interface Unfinished {
  readonly key: string;
  readonly initiated: Date;
  readonly parts: Map<number, Buffer>;
}

/** A small stand-in for an S3-compatible store with one bucket: objects, ranges, and uploads in parts. */
export class ObjectStore {
  readonly objects = new Map<string, Buffer>();
  readonly unfinished = new Map<string, Unfinished>();
  /** Requests that are still to be answered with 503, as a busy store does. */
  busyFor = 0;
  private readonly server = createServer((request, response) => void this.answer(request, response));

  constructor(readonly bucket: string) {}

  /** Starts it, and names it in the environment as its clients expect. */
  async start(): Promise<void> {
    await new Promise<void>((resolve) => this.server.listen(0, '127.0.0.1', resolve));
    Object.assign(process.env, {
      AWS_ENDPOINT_URL_S3: `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`,
      AWS_ACCESS_KEY_ID: 'key',
      AWS_SECRET_ACCESS_KEY: 'secret',
      AWS_REGION: 'here',
    });
  }

  async stop(): Promise<void> {
    this.server.closeAllConnections();
    await new Promise((resolve) => this.server.close(resolve));
  }

  private async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const parts: Buffer[] = [];
    for await (const part of request) parts.push(part as Buffer);
    const body = Buffer.concat(parts);
    const { pathname, searchParams } = new URL(request.url!, 'http://store');
    const [, bucket, ...rest] = decodeURIComponent(pathname).split('/');
    const key = rest.join('/');
    const reply = (status: number, content: Buffer | string = '', headers: Record<string, string | number> = {}) => {
      const bytes = Buffer.from(content);
      response.writeHead(status, { 'Content-Length': bytes.length, ...headers });
      response.end(request.method === 'HEAD' ? undefined : bytes);
    };
    if (!request.headers.authorization?.includes('AWS4-HMAC-SHA256')) return reply(403);
    if (this.busyFor > 0) {
      this.busyFor--;
      return reply(503);
    }
    if (bucket !== this.bucket) return reply(404, '<Error><Code>NoSuchBucket</Code></Error>');
    if (searchParams.has('uploads') || searchParams.has('uploadId')) {
      return this.answerPart(request.method!, key, searchParams, body, reply);
    }
    const object = this.objects.get(key);
    switch (request.method) {
      case 'PUT':
        this.objects.set(key, body);
        return reply(200, '', { ETag: tagOf(body) });
      case 'DELETE':
        this.objects.delete(key);
        return reply(204);
      default:
        if (key === '') return reply(200);
        if (!object) return reply(404, '<Error><Code>NoSuchKey</Code></Error>');
        return sendObject(object, request, reply);
    }
  }

  private answerPart(method: string, key: string, search: URLSearchParams, body: Buffer, reply: Reply): void {
    const uploadId = search.get('uploadId');
    if (uploadId === null && method === 'POST') {
      const id = randomUUID();
      this.unfinished.set(id, { key, initiated: new Date(), parts: new Map() });
      const result = `<Bucket>${this.bucket}</Bucket><Key>${key}</Key><UploadId>${id}</UploadId>`;
      return reply(200, `<InitiateMultipartUploadResult>${result}</InitiateMultipartUploadResult>`);
    }
    if (uploadId === null) {
      const all = [...this.unfinished].map(
        ([id, one]) =>
          `<Upload><Key>${one.key}</Key><UploadId>${id}</UploadId><Initiated>${one.initiated.toISOString()}</Initiated></Upload>`,
      );
      return reply(200, `<ListMultipartUploadsResult>${all.join('')}</ListMultipartUploadsResult>`);
    }
    const upload = this.unfinished.get(uploadId);
    if (!upload) return reply(404, '<Error><Code>NoSuchUpload</Code></Error>');
    if (method === 'PUT') {
      upload.parts.set(Number(search.get('partNumber')), body);
      return reply(200, '', { ETag: tagOf(body) });
    }
    this.unfinished.delete(uploadId);
    if (method === 'DELETE') return reply(204);
    const whole = Buffer.concat([...upload.parts].sort(([a], [b]) => a - b).map(([, part]) => part));
    this.objects.set(upload.key, whole);
    const result = `<Key>${upload.key}</Key><ETag>${tagOf(whole)}</ETag>`;
    reply(200, `<CompleteMultipartUploadResult>${result}</CompleteMultipartUploadResult>`);
  }
}

type Reply = (status: number, content?: Buffer | string, headers?: Record<string, string | number>) => void;

const tagOf = (bytes: Buffer) => `"${createHash('md5').update(bytes).digest('hex')}"`;

function sendObject(object: Buffer, { headers: { range } }: IncomingMessage, reply: Reply): void {
  const [, from, to] = /^bytes=(\d+)-(\d*)$/.exec(range ?? '') ?? [];
  if (from === undefined) return reply(200, object, { ETag: tagOf(object) });
  if (Number(from) >= object.length) return reply(416);
  const end = to ? Math.min(object.length, Number(to) + 1) : object.length;
  reply(206, object.subarray(Number(from), end), {
    'Content-Range': `bytes ${from}-${end - 1}/${object.length}`,
    ETag: tagOf(object),
  });
}
