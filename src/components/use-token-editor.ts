import { type ComponentType, useSyncExternalStore } from 'react';
import type { TokenEditorProps } from './TokenEditor.tsx';

type Editor = ComponentType<TokenEditorProps>;

const SIGNS = ['pointermove', 'pointerdown', 'keydown', 'focusin'] as const;
const waiting = new Set<() => void>();
let loaded: Editor | null = null;

/** Asked for at the first sign of a person on the page. What cannot be fetched is asked for with the next. */
async function fetchEditor(): Promise<void> {
  for (const sign of SIGNS) window.removeEventListener(sign, fetchEditor);
  try {
    loaded = (await import('./TokenEditor.tsx')).default;
    for (const tell of waiting) tell();
  } catch {
    listen();
  }
}
function listen(): void {
  for (const sign of SIGNS) window.addEventListener(sign, fetchEditor, { passive: true });
}
if (typeof window !== 'undefined') listen();

const subscribe = (tell: () => void) => {
  waiting.add(tell);
  return () => waiting.delete(tell);
};

/**
 * The editor of messages, a third of a run sheet's script: whoever only opens or reads a sheet does not wait for it. Null until it is here. A page whose
 * forms are loaded later loads this beforehand, or the sign comes before it can be heard.
 */
export const useTokenEditor = (): Editor | null =>
  useSyncExternalStore(
    subscribe,
    () => loaded,
    // What the server has drawn.
    () => null,
  );
