import { useEffect, useState } from 'react';

/** Whether something has come near the window once: what is far below is neither read nor loaded. Gives that, and where to hang it. */
export function useNear(margin = '400px'): [boolean, (element: HTMLElement | null) => void] {
  const [element, setElement] = useState<HTMLElement | null>(null);
  const [near, setNear] = useState(false);
  useEffect(() => {
    if (!element || near) return;
    const observer = new IntersectionObserver(([entry]) => entry?.isIntersecting && setNear(true), { rootMargin: margin });
    observer.observe(element);
    return () => observer.disconnect();
  }, [element, near, margin]);
  return [near, setElement];
}
