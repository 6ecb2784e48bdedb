import { useEffect, useRef } from 'react';
import { within } from './within.ts';

/** Everybody on this page who wants to know. One connection serves them all: a browser has few for one host. */
const listeners = new Set<() => void>();
let events: EventSource | null = null;

function listen(ring: () => void): () => void {
  listeners.add(ring);
  if (events === null) {
    const tell = () => {
      for (const listener of listeners) listener();
    };
    events = new EventSource(within('/api/live'));
    // At every opening: what happened while the page was on its way, or the connection broken, rang unheard.
    events.onopen = tell;
    events.onmessage = tell;
  } else if (events.readyState === EventSource.OPEN) ring();
  return () => {
    listeners.delete(ring);
    if (listeners.size > 0) return;
    events?.close();
    events = null;
  };
}

/**
 * Looks when it begins to listen, and whenever something has happened in this business. One look at a time: what rings meanwhile is one look more, so
 * that a flood of events is no flood of questions, and an older answer never comes after a newer one.
 */
export function useLive(look: () => Promise<unknown>, live = true): void {
  const latest = useRef(look);
  useEffect(() => {
    latest.current = look;
  });
  useEffect(() => {
    if (!live) return;
    let looking = false;
    let again = false;
    const ring = async () => {
      again = true;
      if (looking) return;
      looking = true;
      while (again) {
        again = false;
        // What it failed with is for whoever asks to show; the next event asks again.
        await latest.current().catch(() => {});
      }
      looking = false;
    };
    const stop = listen(() => void ring());
    return () => {
      again = false;
      stop();
    };
  }, [live]);
}
