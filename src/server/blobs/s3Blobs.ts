import { S3mini } from 's3mini';
import { KinetikonError } from '@/core/errors';
import type { BlobHome, BlobWriter } from './blobHome';
import { PIECE_BYTES } from './pieces';

/** Size of the parts of a large object: the service takes at least 5 MiB, and 10,000 of them. */
const PART_BYTES = 8 * PIECE_BYTES;
const ATTEMPTS = 4;
const FIRST_WAIT_MS = 100;
const PREFIX = 'blobs/';

/** `fetch` that tries again, after longer and longer waits, when the store does not answer or is busy. */
const patientFetch: typeof fetch = async (input, init) => {
  for (let attempt = 1; ; attempt++) {
    const isLast = attempt === ATTEMPTS;
    try {
      const response = await fetch(input, init);
      if (isLast || (response.status < 500 && response.status !== 429)) return response;
      await response.body?.cancel();
    } catch (error) {
      if (isLast) throw error;
    }
    await new Promise((resolve) => setTimeout(resolve, FIRST_WAIT_MS * 2 ** attempt));
  }
};

/** An element of the store's answer. */
interface UnfinishedUpload {
  readonly Key: string;
  readonly UploadId: string;
  readonly Initiated: string;
}

/** Blobs as objects of a bucket in an S3-compatible store. */
export class S3Blobs implements BlobHome {
  readonly name: string;
  private readonly store: S3mini;

  /**
   * @param bucket name of the bucket
   * @param env AWS_ACCESS_KEY_ID, AWS_SECRET_ACCESS_KEY, AWS_REGION, and AWS_ENDPOINT_URL_S3 for stores elsewhere
   * @throws KinetikonError usage when the keys are not there
   */
  constructor(bucket: string, env: Readonly<Record<string, string | undefined>>) {
    const { AWS_ACCESS_KEY_ID: accessKeyId, AWS_SECRET_ACCESS_KEY: secretAccessKey, AWS_REGION: region } = env;
    if (!accessKeyId || !secretAccessKey) {
      throw new KinetikonError('usage', 'The object store needs AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY.');
    }
    const endpoint = env.AWS_ENDPOINT_URL_S3 ?? `https://s3.${region ?? 'us-east-1'}.amazonaws.com`;
    this.name = `s3://${bucket}`;
    this.store = new S3mini({
      accessKeyId,
      secretAccessKey,
      endpoint: `${endpoint.replace(/\/$/, '')}/${bucket}`,
      region: region ?? 'us-east-1',
      fetch: patientFetch,
    });
  }

  /** One object for a small blob; for a large one an upload in parts, which becomes an object when it is completed. */
  async write(id: string): Promise<BlobWriter> {
    const { store } = this;
    const key = PREFIX + id;
    let uploadId: string | null = null;
    let finished = false;
    let held: Uint8Array[] = [];
    const parts: Awaited<ReturnType<S3mini['uploadPart']>>[] = [];
    const sendPart = async () => {
      uploadId ??= await store.getMultipartUploadId(key);
      parts.push(await store.uploadPart(key, uploadId, Buffer.concat(held), parts.length + 1));
      held = [];
    };
    return {
      append: async (piece) => {
        held.push(piece);
        if (held.length * PIECE_BYTES >= PART_BYTES) await sendPart();
      },
      finish: async () => {
        if (uploadId === null) await store.putObject(key, Buffer.concat(held), 'application/octet-stream');
        else {
          if (held.length > 0) await sendPart();
          await store.completeMultipartUpload(key, uploadId, parts);
        }
        finished = true;
      },
      abandon: async () => {
        if (!finished && uploadId !== null) await store.abortMultipartUpload(key, uploadId);
      },
    };
  }

  async *read(id: string, from: number, to: number): AsyncGenerator<Uint8Array> {
    if (from >= to || !(await this.store.objectExists(PREFIX + id))) return;
    const { body } = await this.store.getObjectRaw(PREFIX + id, false, from, to);
    if (body) yield* body as unknown as AsyncIterable<Uint8Array>;
  }

  async size(id: string): Promise<number | null> {
    if (!(await this.store.objectExists(PREFIX + id))) return null;
    return this.store.getContentLength(PREFIX + id);
  }

  async remove(ids: readonly string[]): Promise<void> {
    for (const id of ids) await this.store.deleteObject(PREFIX + id);
  }

  async sweep(olderThanMs: number): Promise<void> {
    // The client gives the elements of the answer as they are, other than its types say.
    const answer = (await this.store.listMultipartUploads('/', PREFIX)) as unknown as {
      ListMultipartUploadsResult?: { Upload?: UnfinishedUpload | readonly UnfinishedUpload[] };
    };
    const unfinished = [answer.ListMultipartUploadsResult?.Upload ?? []].flat() as readonly UnfinishedUpload[];
    for (const { Key, UploadId, Initiated } of unfinished) {
      if (Date.now() - Date.parse(Initiated) > olderThanMs) await this.store.abortMultipartUpload(Key, UploadId);
    }
  }

  async works(): Promise<boolean> {
    return this.store.bucketExists();
  }
}
