import { useEffect } from 'react';

/** Ctrl or Command with Z, Shift and Z, or Y. */
export function useUndoKeys(undo: (() => void) | null, redo: (() => void) | null): void {
  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
      const pressed = event.key.toLowerCase();
      const act = pressed === 'z' ? (event.shiftKey ? redo : undo) : pressed === 'y' ? redo : null;
      // While a cell or another field is typed in, its own undo is meant.
      if (!act || /^(INPUT|TEXTAREA|SELECT)$/.test(document.activeElement?.tagName ?? '')) return;
      event.preventDefault();
      act();
    };
    document.addEventListener('keydown', key);
    return () => document.removeEventListener('keydown', key);
  }, [undo, redo]);
}
