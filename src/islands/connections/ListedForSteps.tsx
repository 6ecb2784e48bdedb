import { type ReactNode, useState } from 'react';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { keyOf } from './key-of.ts';

interface Listed {
  key: string;
  label: string;
}
interface Props<T extends Listed> {
  title: string;
  /** What it is for. */
  children: ReactNode;
  first: { items: T[]; seen: string };
  /** Keeps them, and gives what is kept now. */
  save(items: T[], seen: string): Promise<{ items: T[]; seen: string }>;
  words(item: T): string;
  /** What is told of one that is kept, and of one that is taken out. */
  kept: string;
  gone: string;
  add: string;
  form(made: { busy: boolean; onKeep: (item: Omit<T, 'key'>) => void; onCancel: () => void }): ReactNode;
}

/** What is listed at a connection for steps to name: shown, taken out, and added to by a form. */
export function ListedForSteps<T extends Listed>(listed: Props<T>) {
  const { title, children, first, save, words, kept, gone, add, form } = listed;
  const [{ items, seen }, setKept] = useState(first);
  const [adding, setAdding] = useState(false);
  const { act, busy, told } = useAction();
  const keep = (next: T[], says: string) =>
    void act(
      async () => {
        setKept(await save(next, seen));
        setAdding(false);
      },
      () => says,
    );
  const taken = items.map(({ key }) => key);
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-part">{title}</h2>
      <p className="mb-3 text-note text-ink-2">{children}</p>
      <ul className="mb-3 space-y-2">
        {items.map((one) => (
          <li key={one.key} className="flex flex-wrap items-center gap-x-3 gap-y-1 text-note">
            <span className="font-semibold">{one.label}</span>
            <span className="text-ink-2">{words(one)}</span>
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-label={`Take out: ${one.label}`}
              disabled={busy}
              onClick={() =>
                keep(
                  items.filter((other) => other !== one),
                  gone,
                )
              }
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      {adding ? (
        form({
          busy,
          onKeep: (made) => keep([...items, { ...made, key: keyOf(made.label, taken) } as T], kept),
          onCancel: () => setAdding(false),
        })
      ) : (
        <button type="button" className="btn btn-plain btn-sm" onClick={() => setAdding(true)}>
          {add}
        </button>
      )}
      <Notice told={told} className="mt-3" />
    </section>
  );
}
