import { useEffect, useState } from 'react';

/** A value as it stood still for a moment last: what is typed is not asked for letter by letter. `ms` in milliseconds. */
export function useDebounced<T>(value: T, ms = 250): T {
  const [still, setStill] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setStill(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return still;
}
