import { useCallback, useRef, useState } from 'react';
import { messageOf, Problem } from './call.ts';

/** What came of the last thing that was done. */
export interface Told {
  text: string;
  good: boolean;
  /** The field a refusal is about, where it is about one. */
  field: string | null;
  /** Which refusal it was; "" where it went well or the server was not reached. */
  code: string;
  /** Of HTTP; 0 likewise. */
  status: number;
}

export interface Action {
  /** Something is being done. */
  busy: boolean;
  told: Told | null;
  /** Tells what `done` says, or why it did not go; gives what came of it, or undefined where nothing did. */
  act<T>(work: () => Promise<T>, done?: string | ((came: T) => string | null)): Promise<T | undefined>;
  tell(text: string, good: boolean): void;
  forget(): void;
}

const nothing = () => {};
const NOTHING_MORE = { field: null, code: '', status: 0 };

/**
 * What a person can do: whether it is under way, and what came of it. One thing at a time: a second click while the first is under way does nothing, or,
 * where each is another thing (`inTurn`), waits for it.
 */
export function useAction({ inTurn = false }: { inTurn?: boolean } = {}): Action {
  const [busy, setBusy] = useState(false);
  const [told, setTold] = useState<Told | null>(null);
  const under = useRef<Promise<unknown> | null>(null);
  const act = useCallback<Action['act']>(
    async (work, done = '') => {
      if (under.current && !inTurn) return undefined;
      const mine = (under.current ?? Promise.resolve()).then(work);
      const over = mine.then(nothing, nothing);
      under.current = over;
      setBusy(true);
      setTold(null);
      try {
        const came = await mine;
        const text = typeof done === 'string' ? done : done(came);
        if (text) setTold({ text, good: true, ...NOTHING_MORE });
        return came;
      } catch (error) {
        const { field, code, status } = error instanceof Problem ? error : NOTHING_MORE;
        setTold({ text: messageOf(error), good: false, field, code, status });
        return undefined;
      } finally {
        if (under.current === over) {
          under.current = null;
          setBusy(false);
        }
      }
    },
    [inTurn],
  );
  const tell = useCallback((text: string, good: boolean) => setTold({ text, good, ...NOTHING_MORE }), []);
  const forget = useCallback(() => setTold(null), []);
  return { busy, told, act, tell, forget };
}
