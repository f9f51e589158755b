import { useEffect, useState } from 'react';

/** A value once it has stayed the same for a while: for charts, which cost more than the slider that changes them may. */
export function useSettled<T>(value: T, milliseconds = 120): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), milliseconds);
    return () => clearTimeout(timer);
  }, [value, milliseconds]);
  return settled;
}
