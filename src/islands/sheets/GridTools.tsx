import History from 'lucide-react/icons/history';
import PaintBucket from 'lucide-react/icons/paint-bucket';
import Redo2 from 'lucide-react/icons/redo-2';
import Undo2 from 'lucide-react/icons/undo-2';
import type { ReactNode } from 'react';
import { AddOne } from '../../components/row-buttons.tsx';

export type GridPanel = 'shading' | 'row';

/** How many rows there are, and what can be done with all of them. */
export function GridTools({
  shown,
  here,
  total,
  sorting,
  onWhole,
  undo,
  redo,
  locked,
  panel,
  onPanel,
  onAddColumn,
  locale,
}: {
  /** Rows in sight, where they are filtered. */
  shown: number | null;
  here: number;
  total: number;
  sorting: boolean;
  /** Takes filters and order away; null when there are none. */
  onWhole: (() => void) | null;
  undo: (() => void) | null;
  redo: (() => void) | null;
  locked: boolean;
  panel: GridPanel | null;
  onPanel: (wanted: GridPanel) => void;
  onAddColumn: () => void;
  locale: string;
}) {
  const opens = (what: GridPanel, icon: ReactNode, words: string) => (
    <button type="button" className="btn btn-ghost btn-xs" aria-pressed={panel === what} onClick={() => onPanel(what)}>
      {icon}
      {words}
    </button>
  );
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-note text-ink-2">
      <span data-testid="row-count">
        {shown !== null
          ? `${shown.toLocaleString(locale)} of ${here.toLocaleString(locale)} rows`
          : `${total.toLocaleString(locale)} ${total === 1 ? 'row' : 'rows'}`}
      </span>
      {here < total && (
        <span role="status" className="flex items-center gap-2">
          <progress className="progress w-32" max={total} value={here} aria-label="How many rows are here" />
          {here.toLocaleString(locale)} here; it can be changed once all are
        </span>
      )}
      {sorting && <span role="status">Sorting …</span>}
      {onWhole && (
        <button type="button" className="btn btn-ghost btn-xs" onClick={onWhole}>
          Show all, in their own order
        </button>
      )}
      <span className="ml-auto" />
      {!locked && (
        <>
          {' '}
          <button type="button" className="btn btn-ghost btn-xs" disabled={!undo} onClick={() => undo?.()}>
            <Undo2 className="size-3.5" aria-hidden="true" />
            Undo
          </button>
          <button type="button" className="btn btn-ghost btn-xs" disabled={!redo} onClick={() => redo?.()}>
            <Redo2 className="size-3.5" aria-hidden="true" />
            Redo
          </button>
        </>
      )}
      {opens('row', <History className="size-3.5" aria-hidden="true" />, 'Who wrote it')}
      {!locked && (
        <>
          {opens('shading', <PaintBucket className="size-3.5" aria-hidden="true" />, 'Shading')}
          <AddOne onClick={onAddColumn}>Add a column</AddOne>
        </>
      )}
    </div>
  );
}
