import { useEffect, useRef } from 'react';

/** Calls `look` whenever something has happened in this business, and after a broken connection is back. */
export function useLive(look: () => void): void {
  const latest = useRef(look);
  useEffect(() => {
    latest.current = look;
  });
  useEffect(() => {
    const events = new EventSource('/api/live');
    let opened = false;
    events.onopen = () => {
      if (opened) latest.current();
      opened = true;
    };
    events.onmessage = () => latest.current();
    return () => events.close();
  }, []);
}
