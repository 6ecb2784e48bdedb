import { useEffect, useRef, useState } from 'react';
import { call, Problem } from '../../client/call.ts';
import { EditQueue, type SavingState } from './edit-queue.ts';
import type { RowEdits } from './row-edits.ts';

/** Refusals of what was sent, whoever sends it when. Whoever is signed out can sign in, and try again. */
const FOR_GOOD = new Set([400, 403, 404, 413, 422]);

/** Stores edits as they are made; a page left before all are stored asks first. */
export function useEditQueue(failed: (words: string, forGood: boolean) => void) {
  const [state, setState] = useState<SavingState>('saved');
  /** Counts what has been stored. */
  const [saved, setSaved] = useState(0);
  const tell = useRef(failed);
  useEffect(() => {
    tell.current = failed;
  });
  const [queue] = useState(
    () =>
      new EditQueue({
        store: ({ tabId, edits }) => call('POST', `/api/tabs/${tabId}/rows`, edits),
        changed: setState,
        stored: () => setSaved((n) => n + 1),
        failed: (words, forGood) => tell.current(words, forGood),
        isForGood: (error) => error instanceof Problem && FOR_GOOD.has(error.status),
        later: (ms, what) => {
          const timer = setTimeout(what, ms);
          return () => clearTimeout(timer);
        },
      }),
  );
  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (queue.unsaved) event.preventDefault();
    };
    addEventListener('beforeunload', leave);
    return () => removeEventListener('beforeunload', leave);
  }, [queue]);
  return { state, saved, add: (...edits: RowEdits[]) => queue.add(...edits) };
}
