import Download from 'lucide-react/icons/download';
import Plus from 'lucide-react/icons/plus';
import Trash2 from 'lucide-react/icons/trash-2';
import Upload from 'lucide-react/icons/upload';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { GridRow, RowPage } from '../../app/sheets/sheet-rows.ts';
import type { SheetView, TabView } from '../../app/sheets/sheets.ts';
import { call, callAny, messageOf, Problem } from '../../client/call.ts';
import type { ShadeRule, SheetColumn } from '../../core/sheets/column.ts';
import { Grid } from './Grid.tsx';
import { editsBetween, type RowEdits } from './row-edits.ts';
import type { SheetPlace } from './use-order.ts';
import { useSteps } from './use-steps.ts';

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
  const [rows, setRows] = useState<GridRow[] | null>(firstPage.rows);
  const [total, setTotal] = useState(firstPage.total);
  const [saved, setSaved] = useState(0);
  const [state, setState] = useState<'saved' | 'saving' | 'failed'>('saved');
  const [told, setTold] = useState<{ text: string; good: boolean } | null>(null);
  /** A workbook with several tabs, before one is chosen. */
  const [which, setWhich] = useState<{ file: File; tabs: string[] } | null>(null);
  const [asking, setAsking] = useState<{ text: string; button: string; act: () => Promise<void> } | null>(null);
  const waiting = useRef<RowEdits[]>([]);
  const sending = useRef(false);
  const tab = sheet.tabs.find((one) => one.id === tabId) ?? sheet.tabs[0]!;
  const steps = useSteps(tabId);
  const show = (next: GridRow[]) => {
    setRows(next);
    setTotal(next.length);
  };
  /** The rows as they were before a deed, or after it again: what differs is written like any other edit. */
  const back = (next: GridRow[] | null) => {
    if (!next || !rows) return;
    for (const edits of editsBetween(rows, next)) waiting.current.push({ tabId: tab.id, edits });
    show(next);
    void flush();
  };

  const flush = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    setState('saving');
    try {
      while (waiting.current.length > 0) {
        const next = waiting.current[0]!;
        await call('POST', `/api/tabs/${next.tabId}/rows`, next.edits);
        waiting.current.shift();
        setSaved((n) => n + 1);
      }
      setState('saved');
    } catch (error) {
      // What was typed stays on the screen and is tried again with the next edit.
      setState('failed');
      setTold({ text: `${messageOf(error)} What you typed is still here.`, good: false });
    } finally {
      sending.current = false;
    }
  }, []);
  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (waiting.current.length > 0) event.preventDefault();
    };
    addEventListener('beforeunload', leave);
    return () => removeEventListener('beforeunload', leave);
  }, []);

  /** Which opening of a tab is the last: an older one that still brings rows is too late. */
  const opening = useRef(0);
  const rest = useCallback(async (id: string, first: RowPage) => {
    const mine = ++opening.current;
    let all = first.rows;
    for (let next = first.next; next !== null; ) {
      const page = await call('GET', `/api/tabs/${id}/rows?after=${next}`);
      if (opening.current !== mine) return;
      all = [...all, ...page.rows];
      setRows(all);
      next = page.next;
    }
    // Rows that came or went meanwhile: there are as many as there are here.
    setTotal(all.length);
  }, []);
  useEffect(() => {
    rest(firstTab, firstPage).catch((error) => setTold({ text: messageOf(error), good: false }));
  }, [rest, firstTab, firstPage]);
  const open = async (id: string) => {
    setTabId(id);
    setRows(null);
    opening.current += 1;
    history.replaceState(null, '', `/sheets/${sheet.id}?tab=${id}`);
    const page = await call('GET', `/api/tabs/${id}/rows`);
    setTotal(page.total);
    setRows(page.rows);
    await rest(id, page);
  };
  const setTab = (changed: TabView) =>
    setSheet((before) => ({ ...before, tabs: before.tabs.map((one) => (one.id === changed.id ? changed : one)) }));
  const changeColumns = async (columns: SheetColumn[], agreed = false): Promise<void> => {
    try {
      setTab(await call('PUT', `/api/tabs/${tab.id}`, { columns, agreed }));
      setAsking(null);
    } catch (error) {
      if (error instanceof Problem && error.code === 'listened-to')
        setAsking({
          text: error.message,
          button: 'Take the column away all the same',
          act: () => changeColumns(columns, true),
        });
      else setTold({ text: messageOf(error), good: false });
    }
  };
  /** Shown at once and saved one after the other: a second change made while the first is on its way must not undo it. */
  const shadings = useRef(Promise.resolve());
  const changeShading = (shading: ShadeRule[]) => {
    setTab({ ...tab, shading });
    shadings.current = shadings.current
      .then(() => call('PUT', `/api/tabs/${tab.id}`, { shading }))
      .then(
        () => {},
        (error: unknown) => setTold({ text: messageOf(error), good: false }),
      );
  };
  const remove = async (what: 'sheets' | 'tabs', id: string, agreed: boolean): Promise<void> => {
    try {
      await callAny('DELETE', `/api/${what}/${id}${agreed ? '?agreed=1' : ''}`);
      location.assign(what === 'sheets' ? '/sheets' : `/sheets/${sheet.id}`);
    } catch (error) {
      if (error instanceof Problem && error.code === 'listened-to')
        setAsking({ text: error.message, button: 'Delete it all the same', act: () => remove(what, id, true) });
      else setTold({ text: messageOf(error), good: false });
    }
  };
  const upload = async (file: File, from: string | null = null) => {
    setTold({ text: `Reading ${file.name} …`, good: true });
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
      setTold(null);
      return setWhich({ file, tabs: said.tabs });
    }
    if (!answer?.ok) return setTold({ text: said?.detail ?? 'It could not be uploaded. Try again.', good: false });
    setSheet(await call('GET', `/api/sheets/${sheet.id}`));
    await open(tab.id);
    setTold({ text: `${said?.rows ?? 0} rows added from ${file.name}.`, good: true });
  };
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
            onChange={async (name) => setSheet(await call('PUT', `/api/sheets/${sheet.id}`, { name }))}
          />
        </h1>
        <span className="text-[13px] text-ink-2" role="status" data-testid="saved">
          {!mayChange
            ? 'You can look at this sheet, not change it or take it along'
            : state === 'saved'
              ? 'Saved'
              : state === 'saving'
                ? 'Saving …'
                : 'Not saved yet'}
        </span>
        <span className="grow" />
        {mayChange && (
          <>
            <label className="btn btn-plain btn-sm">
              <Upload className="size-4" aria-hidden="true" />
              Add rows from a file
              <input
                type="file"
                className="sr-only"
                accept=".xlsx,.csv,.txt,.tsv"
                onChange={(event) => {
                  const file = event.target.files?.[0];
                  event.target.value = '';
                  if (file) void upload(file);
                }}
              />
            </label>
            {(['csv', 'xlsx'] as const).map((format) => (
              <a key={format} className="btn btn-plain btn-sm" href={`/api/tabs/${tab.id}/file?format=${format}`}>
                <Download className="size-4" aria-hidden="true" />
                {format.toUpperCase()}
              </a>
            ))}
            <button
              type="button"
              className="btn btn-ghost btn-sm btn-square"
              aria-label="Delete this sheet"
              title="Delete this sheet"
              onClick={() =>
                setAsking({
                  text: `Delete the sheet "${sheet.name}" with all its rows? This cannot be undone.`,
                  button: 'Delete the sheet',
                  act: () => remove('sheets', sheet.id, false),
                })
              }
            >
              <Trash2 className="size-4" aria-hidden="true" />
            </button>
          </>
        )}
      </div>
      <nav className="flex items-center gap-4 border-b border-base-300 bg-base-100 px-4" aria-label="Tabs">
        {sheet.tabs.map((one) =>
          one.id === tab.id ? (
            <span
              key={one.id}
              aria-current="true"
              className="flex items-center border-b-2 border-brass-line py-1 font-medium text-primary"
            >
              <NameField
                fixed={!mayChange}
                label="Name of the tab"
                value={one.name}
                onChange={async (name) => setTab(await call('PUT', `/api/tabs/${one.id}`, { name }))}
              />
              {mayChange && sheet.tabs.length > 1 && (
                <button
                  type="button"
                  className="btn btn-ghost btn-xs btn-square"
                  aria-label={`Delete the tab ${one.name}`}
                  onClick={() =>
                    setAsking({
                      text: `Delete the tab "${one.name}" with all its rows? This cannot be undone.`,
                      button: 'Delete the tab',
                      act: () => remove('tabs', one.id, false),
                    })
                  }
                >
                  <Trash2 className="size-3.5" aria-hidden="true" />
                </button>
              )}
            </span>
          ) : (
            <button
              key={one.id}
              type="button"
              className="border-b-2 border-transparent py-2 font-medium text-ink-2 hover:text-base-content"
              onClick={() => void open(one.id)}
            >
              {one.name}
            </button>
          ),
        )}
        {mayChange && (
          <button
            type="button"
            className="btn btn-ghost btn-xs btn-square"
            aria-label="Add a tab"
            title="Add a tab"
            onClick={async () => {
              const fresh = await call('POST', `/api/sheets/${sheet.id}/tabs`, {
                name: `${sheet.name} ${sheet.tabs.length + 1}`.slice(0, 100),
              });
              setSheet(fresh);
              await open(fresh.tabs.at(-1)!.id);
            }}
          >
            <Plus className="size-4" aria-hidden="true" />
          </button>
        )}
      </nav>
      {told && (
        <p className={`notice mx-4 mt-2 ${told.good ? 'good' : 'bad'}`} role="alert">
          {told.text}
        </p>
      )}
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
            saved={saved}
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
            onEdits={(edits) => {
              waiting.current.push({ tabId: tab.id, edits });
              void flush();
            }}
            onColumns={(columns) => void changeColumns(columns)}
          />
        )}
      </div>
    </div>
  );
}

/** A name that can be typed over where it stands. */
function NameField({
  label,
  value,
  fixed,
  onChange,
}: {
  label: string;
  fixed: boolean;
  value: string;
  onChange: (value: string) => Promise<void>;
}) {
  const [typed, setTyped] = useState(value);
  return (
    <input
      className="h-7 rounded-md bg-transparent px-1 hover:bg-base-200 focus:bg-base-100"
      style={{ width: `${Math.max(6, typed.length + 2)}ch` }}
      aria-label={label}
      value={typed}
      readOnly={fixed}
      maxLength={100}
      onChange={(event) => setTyped(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
      onBlur={() => {
        const name = typed.trim();
        if (name === '' || name === value) setTyped(value);
        else onChange(name).catch(() => setTyped(value));
      }}
    />
  );
}
