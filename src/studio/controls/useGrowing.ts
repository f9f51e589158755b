import { useEffect, useState } from 'react';

/** How many of a long list's entries are there by now: so many at once, so many more with every frame, so that the page never holds still for a list. */
export function useGrowing(total: number, first: number, step: number): number {
  const [count, setCount] = useState(first);
  useEffect(() => {
    if (count >= total) return;
    const frame = requestAnimationFrame(() => setCount((c) => c + step));
    return () => cancelAnimationFrame(frame);
  }, [count, total, step]);
  return Math.min(count, total);
}
