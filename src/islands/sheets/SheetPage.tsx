import { useState } from 'react';
import type { GridRow, RowPage } from '../../app/sheets/sheet-rows.ts';
import type { SheetView, TabView } from '../../app/sheets/sheets.ts';
import { call, callAny, Problem } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import type { ShadeRule, SheetColumn } from '../../core/sheets/column.ts';
import { Grid } from './Grid.tsx';
import { NameField } from './NameField.tsx';
import { editsBetween } from './row-edits.ts';
import { SheetTabs } from './SheetTabs.tsx';
import { SheetTools } from './SheetTools.tsx';
import { useEditQueue } from './use-edit-queue.ts';
import type { SheetPlace } from './use-order.ts';
import { useSteps } from './use-steps.ts';
import { useTabRows } from './use-tab-rows.ts';

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
  const [sheet, setSheet] = useState(first);
  const [tabId, setTabId] = useState(firstTab);
  const { act, busy, told, tell, forget } = useAction({ inTurn: true });
  const wrong = (words: string) => tell(words, false);
  // What was typed stays on the screen.
  const queue = useEditQueue((words, forGood) =>
    wrong(
      forGood
        ? `${words} It is not kept, though it still stands here. Load the page again to see what is.`
        : `${words} What you typed is still here.`,
    ),
  );
  const { rows, total, show, open: openRows } = useTabRows(firstTab, firstPage, wrong);
  /** A workbook with several tabs, before one is chosen. */
  const [which, setWhich] = useState<{ file: File; tabs: string[] } | null>(null);
  const [asking, setAsking] = useState<{ text: string; button: string; act: () => Promise<unknown> } | null>(null);
  const tab = sheet.tabs.find((tab) => tab.id === tabId) ?? sheet.tabs[0]!;
  const steps = useSteps(tabId);
  /** The rows as they were before a deed, or after it again: what differs is written like any other edit. */
  const back = (next: GridRow[] | null) => {
    if (!next || !rows) return;
    queue.add(...editsBetween(rows, next).map((edits) => ({ tabId: tab.id, edits })));
    show(next);
  };
  const open = async (id: string) => {
    setTabId(id);
    history.replaceState(null, '', `/sheets/${sheet.id}?tab=${id}`);
    await openRows(id);
  };
  const setTab = (changed: TabView) =>
    setSheet((before) => ({ ...before, tabs: before.tabs.map((tab) => (tab.id === changed.id ? changed : tab)) }));
  /** What a workflow listens to is done once the person has agreed. */
  const unlessListened = (work: () => Promise<unknown>, button: string, agreed: () => Promise<unknown>) =>
    act(() =>
      work().then(
        () => setAsking(null),
        (error: unknown) => {
          if (!(error instanceof Problem) || error.code !== 'listened-to') throw error;
          setAsking({ text: error.message, button, act: agreed });
        },
      ),
    );
  const changeColumns = (columns: SheetColumn[], agreed = false): Promise<unknown> =>
    unlessListened(
      async () => setTab(await call('PUT', `/api/tabs/${tab.id}`, { columns, agreed })),
      'Take the column away all the same',
      () => changeColumns(columns, true),
    );
  /** Shown at once and saved one after the other: a second change made while the first is on its way must not undo it. */
  const changeShading = (shading: ShadeRule[]) => {
    setTab({ ...tab, shading });
    void act(() => call('PUT', `/api/tabs/${tab.id}`, { shading }));
  };
  const remove = (what: 'sheets' | 'tabs', id: string, agreed: boolean): Promise<unknown> =>
    unlessListened(
      async () => {
        await callAny('DELETE', `/api/${what}/${id}${agreed ? '?agreed=1' : ''}`);
        await goTo(what === 'sheets' ? '/sheets' : `/sheets/${sheet.id}`);
      },
      'Delete it all the same',
      () => remove(what, id, true),
    );
  const upload = async (file: File, from: string | null = null) => {
    tell(`Reading ${file.name} …`, true);
    setWhich(null);
    const asked = new URLSearchParams({ name: file.name, ...(from === null ? {} : { tab: from }) });
    const answer = await fetch(`/api/tabs/${tab.id}/file?${asked}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    }).catch(() => null);
    const said = (await answer?.json().catch(() => null)) as {
      detail?: string;
      rows?: number;
      tabs?: string[];
    } | null;
    if (answer?.status === 409 && said?.tabs) {
      forget();
      return setWhich({ file, tabs: said.tabs });
    }
    if (!answer?.ok) return wrong(said?.detail ?? 'It could not be uploaded. Try again.');
    setSheet(await call('GET', `/api/sheets/${sheet.id}`));
    await open(tab.id);
    tell(`${said?.rows ?? 0} rows added from ${file.name}.`, true);
  };
  const named = async (work: () => Promise<void>): Promise<boolean> =>
    (await act(async () => {
      await work();
      return true;
    })) === true;
  const addTab = () =>
    act(async () => {
      const name = `${sheet.name} ${sheet.tabs.length + 1}`.slice(0, 100);
      const fresh = await call('POST', `/api/sheets/${sheet.id}/tabs`, { name });
      setSheet(fresh);
      await open(fresh.tabs.at(-1)!.id);
    });
  return (
    <div className="flex h-full flex-col">
      <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-4 py-2">
        <a className="text-ink-2 hover:underline" href="/sheets">
          Sheets
        </a>
        <h1 className="min-w-0 text-xl">
          <NameField
            fixed={!mayChange}
            label="Name of the sheet"
            value={sheet.name}
            onChange={(name) => named(async () => setSheet(await call('PUT', `/api/sheets/${sheet.id}`, { name })))}
          />
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
        onName={(id, name) => named(async () => setTab(await call('PUT', `/api/tabs/${id}`, { name })))}
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
      {which && (
        <div className="notice mx-4 mt-2 flex flex-wrap items-center gap-2" role="alert">
          <span>{which.file.name} has several tabs. Add the rows of</span>
          {which.tabs.map((name) => (
            <button
              key={name}
              type="button"
              className="btn btn-plain btn-sm"
              onClick={() => void upload(which.file, name)}
            >
              {name}
            </button>
          ))}
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setWhich(null)}>
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
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(null)}>
            Keep it
          </button>
        </div>
      )}
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
