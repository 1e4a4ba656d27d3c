export interface Complex {
  readonly re: number;
  readonly im: number;
}

export const plus = (a: Complex, b: Complex): Complex => ({ re: a.re + b.re, im: a.im + b.im });

export const times = (a: Complex, b: Complex): Complex => ({
  re: a.re * b.re - a.im * b.im,
  im: a.re * b.im + a.im * b.re,
});

export const over = (a: Complex, b: Complex): Complex => {
  const power = b.re * b.re + b.im * b.im;
  return { re: (a.re * b.re + a.im * b.im) / power, im: (a.im * b.re - a.re * b.im) / power };
};

export const conjugate = ({ re, im }: Complex): Complex => ({ re, im: -im });
