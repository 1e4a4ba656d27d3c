import { rangeOf } from './ranges';

describe('the range of a request', () => {
  it.each([
    ['bytes=0-0', { from: 0, to: 1 }],
    ['bytes=5-', { from: 5, to: 100 }],
    ['bytes=5-8', { from: 5, to: 9 }],
    ['bytes=90-200', { from: 90, to: 100 }],
    ['bytes=-10', { from: 90, to: 100 }],
    ['bytes=-1000', { from: 0, to: 100 }],
    ['bytes=100-', 'none'],
    ['bytes=-0', 'none'],
  ])('%s is a part of 100 bytes, or none', (header, expected) => expect(rangeOf(header, 100)).toEqual(expected));

  it.each([null, '', 'bytes', 'bytes=-', 'bytes=8-5', 'bytes=0-1,5-6', 'frames=0-5', 'bytes=a-b'])(
    'is the whole body for %s',
    (header) => expect(rangeOf(header, 100)).toBeNull(),
  );

  it('is none of an empty body', () => expect(rangeOf('bytes=0-', 0)).toBe('none'));
});
