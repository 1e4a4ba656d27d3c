import { prepareDecoders, takeDecoders } from './decoders';

jest.mock('./kernels', () => ({ compiledKernels: () => new Promise(() => {}) }));

describe('workers that decode', () => {
  const begun: string[] = [];
  const { Worker: before } = globalThis as { Worker?: unknown };
  beforeAll(() => {
    (globalThis as { Worker?: unknown }).Worker = class {
      constructor(path: string) {
        begun.push(path);
      }
    };
  });
  afterAll(() => {
    (globalThis as { Worker?: unknown }).Worker = before;
  });

  it('are there before they are taken, once, and belong to whoever takes them', () => {
    prepareDecoders();
    prepareDecoders();
    expect(begun).toHaveLength(2);
    const first = takeDecoders();
    expect(first).toHaveLength(2);
    expect(begun).toHaveLength(2);
    const second = takeDecoders();
    expect(begun).toHaveLength(4);
    expect(second.some((one) => first.includes(one))).toBe(false);
  });
});
