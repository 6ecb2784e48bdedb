export type SheetPane = 'sheet' | 'step' | 'sample';

const PANES = [
  ['sheet', 'Sheet'],
  ['step', 'Chosen'],
  ['sample', 'Sample lead'],
] as const;

/** Where there is room for one of them only: which part of the run sheet is in sight. */
export function SheetPanes({ pane, onPane }: { pane: SheetPane; onPane: (pane: SheetPane) => void }) {
  return (
    <div className="flex shrink-0 gap-1 border-b border-base-300 bg-base-100 px-2 lg:hidden">
      {PANES.map(([id, name]) => (
        <button
          key={id}
          type="button"
          aria-pressed={pane === id}
          className={`grow border-b-2 px-3 py-2 font-medium ${pane === id ? 'border-brass-line text-primary' : 'border-transparent text-ink-2'}`}
          onClick={() => onPane(id)}
        >
          {name}
        </button>
      ))}
    </div>
  );
}
