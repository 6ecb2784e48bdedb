import { useEffect } from 'react';

/** Undo and redo, Delete for the chosen step, Escape; while something is typed, only Escape and the commands. */
export function useSheetKeys({
  undo,
  redo,
  remove,
  leave,
}: {
  undo: () => void;
  redo: () => void;
  remove: () => void;
  leave: () => void;
}): void {
  // Anew at each drawing: what a key does depends on what is chosen now.
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor');
      const command = event.ctrlKey || event.metaKey;
      if (command && event.key.toLowerCase() === 'z' && !typing) {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      }
      if (event.key === 'Delete' && !typing) remove();
      if (event.key === 'Escape') leave();
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  });
}
