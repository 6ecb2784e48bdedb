import { useState } from 'react';
import type { GridRow, RowPage } from '../../app/sheets/sheet-rows.ts';
import type { SheetView, TabView } from '../../app/sheets/sheets.ts';
import { call, callAny, Problem } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import type { ShadeRule, SheetColumn } from '../../core/sheets/column.ts';
import { editsBetween } from './row-edits.ts';
import { useEditQueue } from './use-edit-queue.ts';
import { useSteps } from './use-steps.ts';
import { useTabRows } from './use-tab-rows.ts';

/** What is to be agreed to before it is done. */
export interface Asking {
  text: string;
  button: string;
  act: () => Promise<unknown>;
}
/** A workbook with several tabs, before one is chosen. */
export interface Which {
  file: File;
  tabs: string[];
}

/** A sheet, one of its tabs with its rows, and all that can be done with them; every edit is saved as it is made. */
export function useSheet(first: SheetView, firstTab: string, firstPage: RowPage) {
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
  const [which, setWhich] = useState<Which | null>(null);
  const [asking, setAsking] = useState<Asking | null>(null);
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
    history.replaceState(null, '', within(`/sheets/${sheet.id}?tab=${id}`));
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
    const answer = await fetch(within(`/api/tabs/${tab.id}/file?${asked}`), {
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
  return {
    ...{ sheet, tab, rows, total, busy, told, queue, steps, which, setWhich, asking, setAsking },
    ...{ show, back, open, upload, remove, addTab, changeColumns, changeShading },
    rename: (name: string) => named(async () => setSheet(await call('PUT', `/api/sheets/${sheet.id}`, { name }))),
    renameTab: (id: string, name: string) => named(async () => setTab(await call('PUT', `/api/tabs/${id}`, { name }))),
  };
}
