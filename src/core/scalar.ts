/** A number brought between 0 and 1. */
export const clampUnit = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v);

/** 0 up to `from`, 1 beyond `to`, between them the cubic 3t² − 2t³. */
export const smoothstep = (from: number, to: number, x: number): number => {
  const t = clampUnit((x - from) / (to - from));
  return t * t * (3 - 2 * t);
};

/** Length of a vector of two. Millions of them: `Math.hypot` guards against overflow and is ten times slower. */
export const lengthOf = (x: number, y: number): number => Math.sqrt(x * x + y * y);
