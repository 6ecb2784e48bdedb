import type { Asking, Which } from './use-sheet.ts';

interface Props {
  which: Which | null;
  /** Null for none of them. */
  onWhich: (tab: string | null) => void;
  asking: Asking | null;
  onKeep: () => void;
}

/** What a sheet asks before it goes on: which tab of a workbook, and whether something is to go for good. */
export const SheetAsks = ({ which, onWhich, asking, onKeep }: Props) => (
  <>
    {which && (
      <div className="notice mx-4 mt-2 flex flex-wrap items-center gap-2" role="alert">
        <span>{which.file.name} has several tabs. Add the rows of</span>
        {which.tabs.map((name) => (
          <button key={name} type="button" className="btn btn-plain btn-sm" onClick={() => onWhich(name)}>
            {name}
          </button>
        ))}
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => onWhich(null)}>
          None of them
        </button>
      </div>
    )}
    {asking && (
      <div className="notice mx-4 mt-2 flex flex-wrap items-center gap-2" role="alert">
        <span className="grow">{asking.text}</span>
        <button type="button" className="btn btn-primary btn-sm" onClick={() => void asking.act()}>
          {asking.button}
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => onKeep()}>
          Keep it
        </button>
      </div>
    )}
  </>
);
