import Search from 'lucide-react/icons/search';
import { lazy, Suspense, useEffect, useState } from 'react';
import { singleKeys } from '../../client/single-keys.ts';
import type { Role } from '../../core/people/rights.ts';

const FindDialog = lazy(() => import('./FindDialog.tsx'));
const ShortcutList = lazy(() => import('./ShortcutList.tsx'));

/** The one key that leads everywhere, with its button in the bar; and the list of keys there are. */
export default function FindAndDo({ role, help }: { role: Role; help: { href: string; name: string }[] }) {
  const [open, setOpen] = useState<'find' | 'keys' | null>(null);
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && !event.altKey && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setOpen('find');
      } else if (event.key === '?' && singleKeys(event)) {
        event.preventDefault();
        setOpen('keys');
      }
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  }, []);
  const close = () => setOpen(null);
  return (
    <>
      <button
        type="button"
        className="flex min-h-8 cursor-pointer items-center gap-1.5 rounded-lg px-2 py-1.5 font-medium hover:bg-white/10"
        aria-haspopup="dialog"
        aria-keyshortcuts="Control+K"
        title="Find anything, or do something (Ctrl+K)"
        onClick={() => setOpen('find')}
      >
        <Search className="size-4" aria-hidden="true" />
        <span className="max-bar:sr-only">Find</span>
        <kbd className="rounded border border-white/30 px-1 text-xs max-wide:hidden">Ctrl K</kbd>
      </button>
      <Suspense>
        {open === 'find' && <FindDialog {...{ role, help }} onClose={close} onKeys={() => setOpen('keys')} />}
        {open === 'keys' && <ShortcutList onClose={close} />}
      </Suspense>
    </>
  );
}
