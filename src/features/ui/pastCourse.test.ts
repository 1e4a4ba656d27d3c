import { PastCourse } from './pastCourse';

describe('the course of the last seconds', () => {
  it('moves to the left, forgets what is older, and ends where nothing is told', () => {
    const course = new PastCourse(8, 'loudness', 'dry', (value, ago) => `${value} LUFS, ${ago}`);
    expect(course.last).toBeNull();
    course.move(100, -20);
    course.move(103, -23);
    expect(course.line.points.map(({ x, y }) => [x, y])).toEqual([
      [-3, -20],
      [0, -23],
    ]);
    course.move(109, null);
    expect(course.line.points.map(({ x, y }) => [x, y])).toEqual([[-6, -23]]);
    expect([course.last, course.line.reading(-6, -23)]).toEqual([-23, '−23.0 LUFS, 6.0 s ago']);
  });
});
