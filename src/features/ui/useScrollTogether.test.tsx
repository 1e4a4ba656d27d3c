import { fireEvent, render } from '@testing-library/react';
import { useRef } from 'react';
import { useScrollTogether } from './useScrollTogether';

function Part({ name }: { readonly name: string }) {
  const ref = useRef<HTMLDivElement>(null);
  useScrollTogether(ref);
  return <div ref={ref} data-testid={name} />;
}

function twoParts(): readonly [HTMLElement, HTMLElement] {
  const { getByTestId } = render(
    <>
      <Part name="left" />
      <Part name="right" />
    </>,
  );
  return [getByTestId('left'), getByTestId('right')];
}

const scrollTo = (part: HTMLElement, top: number) => {
  part.scrollTop = top;
  fireEvent.scroll(part);
};

test('each leads the other', () => {
  const [left, right] = twoParts();
  scrollTo(left, 40);
  fireEvent.scroll(right);
  expect(right.scrollTop).toBe(40);
  scrollTo(right, 10);
  fireEvent.scroll(left);
  expect(left.scrollTop).toBe(10);
});

test('one that was led does not call back another that has gone on', () => {
  const [left, right] = twoParts();
  scrollTo(left, 40);
  left.scrollTop = 90;
  fireEvent.scroll(right);
  expect(left.scrollTop).toBe(90);
  fireEvent.scroll(left);
  fireEvent.scroll(right);
  expect([left.scrollTop, right.scrollTop]).toEqual([90, 90]);
});
