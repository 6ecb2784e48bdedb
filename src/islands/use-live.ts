import { useEffect, useRef } from 'react';

/** Calls `look` when it begins to listen, and whenever something has happened in this business. */
export function useLive(look: () => void): void {
  const latest = useRef(look);
  useEffect(() => {
    latest.current = look;
  });
  useEffect(() => {
    const events = new EventSource('/api/live');
    // At every opening: what happened while the page was on its way, or the connection broken, rang unheard.
    events.onopen = () => latest.current();
    events.onmessage = () => latest.current();
    return () => events.close();
  }, []);
}
