import type { RowPage } from '../../app/sheets/sheet-rows.ts';
import type { SheetView } from '../../app/sheets/sheets.ts';
import { Notice } from '../../client/Notice.tsx';
import { within } from '../../client/within.ts';
import { Grid } from './Grid.tsx';
import { NameField } from './NameField.tsx';
import { SheetAsks } from './SheetAsks.tsx';
import { SheetTabs } from './SheetTabs.tsx';
import { SheetTools } from './SheetTools.tsx';
import type { SheetPlace } from './use-order.ts';
import { useSheet } from './use-sheet.ts';

interface Props {
  first: SheetView;
  tab: string;
  /** The tab's first rows. */
  page: RowPage;
  place: SheetPlace;
  /** Whether the person may change anything, or take it along. */
  mayChange: boolean;
}

/** A sheet: its tabs, and the grid of one of them. Every edit is saved as it is made. */
export default function SheetPage({ first, tab: firstTab, page: firstPage, place, mayChange }: Props) {
  const work = useSheet(first, firstTab, firstPage);
  const { sheet, tab, rows, total, busy, told, queue, steps, which, setWhich, asking, setAsking } = work;
  const { show, back, open, upload, remove, addTab, changeColumns, changeShading, rename, renameTab } = work;
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
        <a className="text-ink-2 hover:underline" href={within('/sheets')}>
          Sheets
        </a>
        <h1 className="min-w-0 text-xl">
          <NameField fixed={!mayChange} label="Name of the sheet" value={sheet.name} onChange={rename} />
        </h1>
        <span className="text-note text-ink-2" role="status" data-testid="saved">
          {mayChange ? STATES[queue.state] : 'You can look at this sheet, not change it or take it along'}
        </span>
        <span className="grow" />
        {mayChange && (
          <SheetTools
            tabId={tab.id}
            onFile={(file) => void upload(file)}
            onDelete={() =>
              setAsking({
                text: `Delete the sheet "${sheet.name}" with all its rows? This cannot be undone.`,
                button: 'Delete the sheet',
                act: () => remove('sheets', sheet.id, false),
              })
            }
          />
        )}
      </div>
      <SheetTabs
        tabs={sheet.tabs}
        chosen={tab.id}
        mayChange={mayChange}
        busy={busy}
        onOpen={(id) => void open(id)}
        onName={renameTab}
        onRemove={(tabView) =>
          setAsking({
            text: `Delete the tab "${tabView.name}" with all its rows? This cannot be undone.`,
            button: 'Delete the tab',
            act: () => remove('tabs', tabView.id, false),
          })
        }
        onAdd={() => void addTab()}
      />
      <Notice told={told} className="mx-4 mt-2" />
      <SheetAsks
        which={which}
        onWhich={(name) => (name === null ? setWhich(null) : void upload(which!.file, name))}
        asking={asking}
        onKeep={() => setAsking(null)}
      />
      <div className="min-h-0 grow">
        {rows === null ? (
          <p className="p-4 text-ink-2">Opening …</p>
        ) : (
          <Grid
            key={tab.id}
            tab={tab}
            rows={rows}
            saved={queue.saved}
            locked={!mayChange}
            total={Math.max(total, rows.length)}
            place={place}
            onRows={(next, deed) => {
              steps.note(rows, deed);
              show(next);
            }}
            undo={steps.canUndo ? () => back(steps.undo(rows)) : null}
            redo={steps.canRedo ? () => back(steps.redo(rows)) : null}
            onShading={changeShading}
            onEdits={(edits) => queue.add({ tabId: tab.id, edits })}
            onColumns={(columns) => void changeColumns(columns)}
          />
        )}
      </div>
    </div>
  );
}

const STATES = { saved: 'Saved', saving: 'Saving …', failed: 'Not saved yet' } as const;
