import { useEffect, useRef } from 'react';
import { singleKeys } from './single-keys.ts';

/** What single keys do on this page, by the key in lower case. They do nothing while something is typed, or where they are switched off. */
export function useSingleKeys(keys: Record<string, () => void>): void {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const does = latest.current[event.key.toLowerCase()];
      if (!does || !singleKeys(event)) return;
      event.preventDefault();
      does();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}

/** The one after (or before) `at` in a list, staying at its ends; the first where none is chosen. */
export function nextOf<T>(all: readonly T[], at: number, by: 1 | -1): T | undefined {
  return at < 0 ? all[0] : all[Math.min(all.length - 1, Math.max(0, at + by))];
}
