import { type ComponentType, useEffect, useState } from 'react';
import type { TokenEditorProps } from './TokenEditor.tsx';

type Editor = ComponentType<TokenEditorProps>;

const SIGNS = ['pointermove', 'pointerdown', 'keydown', 'focusin'] as const;

/** Set once it is here. */
let loaded: Editor | null = null;
/** Resolves with the editor, which is asked for at the first sign of a person on the page. */
const wanted = new Promise<Editor>((resolve, reject) => {
  if (typeof window === 'undefined') return;
  const fetch = () => {
    for (const sign of SIGNS) window.removeEventListener(sign, fetch);
    import('./TokenEditor.tsx').then((made) => {
      loaded = made.default;
      resolve(made.default);
    }, reject);
  };
  // Loaded with the form of a step somebody has just chosen, this comes too late to hear of them.
  if (navigator.userActivation?.hasBeenActive) fetch();
  else for (const sign of SIGNS) window.addEventListener(sign, fetch, { passive: true });
});

/**
 * The editor of messages, a third of a run sheet's script: whoever only opens or reads a sheet does not wait for it. Null until it is here; whatever is
 * shown until then stays where it cannot be fetched.
 */
export function useTokenEditor(): Editor | null {
  const [editor, setEditor] = useState<Editor | null>(() => loaded);
  useEffect(() => {
    if (!editor)
      wanted.then(
        (made) => setEditor(() => made),
        () => {},
      );
  }, [editor]);
  return editor;
}
