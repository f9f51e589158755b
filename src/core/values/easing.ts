export const easings = ['hold', 'straight', 'ease', 'ease-in', 'ease-out'] as const;
export type Easing = (typeof easings)[number];

/** Share of the way 0..1 after easing. `ease` is the cubic 3t² − 2t³. */
export function eased(easing: Easing, t: number): number {
  const x = Math.min(1, Math.max(0, t));
  switch (easing) {
    case 'hold':
      return x < 1 ? 0 : 1;
    case 'straight':
      return x;
    case 'ease':
      return x * x * (3 - 2 * x);
    case 'ease-in':
      return x * x * x;
    case 'ease-out':
      return 1 - (1 - x) ** 3;
  }
}

/** The share of the way from one value to another. To an endless distance, or from one, the way is even in 1/distance, as a lens is focused. */
export const between = (a: number, b: number, share: number): number => {
  if (Number.isFinite(a) && Number.isFinite(b)) return a + (b - a) * share;
  if (a === b || share <= 0) return a;
  return share >= 1 ? b : 1 / (1 / a + (1 / b - 1 / a) * share);
};
