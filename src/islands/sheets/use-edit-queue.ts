import { useEffect, useRef, useState } from 'react';
import { call } from '../../client/call.ts';
import { EditQueue, type SavingState } from './edit-queue.ts';
import type { RowEdits } from './row-edits.ts';

/** Stores edits as they are made; a page left before all are stored asks first. */
export function useEditQueue(failed: (words: string) => void) {
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
        failed: (words) => tell.current(words),
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
