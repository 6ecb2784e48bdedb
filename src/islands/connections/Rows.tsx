import Plus from 'lucide-react/icons/plus';
import type { ReactNode } from 'react';
import { TakeAway } from '../../components/row-buttons.tsx';

/** A list of things of one kind, each in a row of its own, with more added and any taken away. */
export function Rows<T>({
  title,
  note,
  rows,
  fresh,
  onChange,
  children,
  add = 'Add',
}: {
  title: string;
  note?: ReactNode;
  rows: readonly T[];
  fresh: () => T;
  onChange: (rows: T[]) => void;
  /** What stands in one row. */
  children: (row: T, set: (patch: Partial<T>) => void, i: number) => ReactNode;
  add?: string;
}) {
  return (
    <section className="mb-3" aria-label={title}>
      <h4 className="field-label">{title}</h4>
      {note && <p className="mb-1 text-note text-ink-2">{note}</p>}
      {rows.map((row, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own
        <div key={i} className="mb-1.5 flex items-start gap-1">
          <div className="flex min-w-0 grow flex-wrap gap-1">
            {children(row, (patch) => onChange(rows.map((one, n) => (n === i ? { ...one, ...patch } : one))), i)}
          </div>
          <TakeAway label={`Remove from: ${title}`} onClick={() => onChange(rows.filter((_, n) => n !== i))} />
        </div>
      ))}
      <button
        type="button"
        className="btn btn-ghost btn-xs"
        aria-label={`${add}: ${title}`}
        onClick={() => onChange([...rows, fresh()])}
      >
        <Plus className="size-3.5" aria-hidden="true" />
        {add}
      </button>
    </section>
  );
}
