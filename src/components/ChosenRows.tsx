import { useEffect, useId, useState } from 'react';
import { call, messageOf } from '../client/call.ts';
import { comeAnew } from '../client/go-to.ts';
import { within } from '../client/within.ts';
import { Line } from './fields.tsx';
import { Popover } from './Popover.tsx';

/** A row of the table that can be chosen. */
export interface ChosenRow {
  id: string;
  name: string;
  folder: string;
  state: string;
}

interface Props {
  kind: 'workflow' | 'source';
  rows: readonly ChosenRow[];
  folders: readonly string[];
}

const pause = (kind: Props['kind'], { id }: ChosenRow, paused: boolean) =>
  kind === 'workflow'
    ? call('PUT', `/api/workflows/${id}/live`, { paused })
    : call('PUT', `/api/sources/${id}`, { paused });
const move = (kind: Props['kind'], { id, name, folder: was }: ChosenRow, folder: string) =>
  kind === 'workflow'
    ? call('POST', `/api/workflows/${id}`, { name, folder })
    : call('PUT', `/api/named/${id}`, { kind, name, folder, was: { name, folder: was } });
const remove = (kind: Props['kind'], { id }: ChosenRow) =>
  kind === 'workflow' ? call('DELETE', `/api/workflows/${id}`) : call('DELETE', `/api/sources/${id}`);

/** Does one thing with all rows that are ticked in the table of this page: each by itself, and those that could not be are told with the reason. */
export default function ChosenRows({ kind, rows, folders }: Props) {
  const [ids, setIds] = useState<ReadonlySet<string>>(new Set());
  const [left, setLeft] = useState<{ name: string; why: string }[]>([]);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    const look = () =>
      setIds(
        new Set([...document.querySelectorAll<HTMLInputElement>('input[data-row]:checked')].map(({ value }) => value)),
      );
    document.addEventListener('change', look);
    look();
    return () => document.removeEventListener('change', look);
  }, []);
  const chosen = rows.filter(({ id }) => ids.has(id));
  const all = async (done: (row: ChosenRow) => Promise<unknown>, which = chosen) => {
    setBusy(true);
    setLeft([]);
    const not: { name: string; why: string }[] = [];
    for (const row of which)
      await done(row).catch((error: unknown) => not.push({ name: row.name, why: messageOf(error) }));
    setBusy(false);
    setLeft(not);
    // What is shown is not so any more.
    if (not.length === 0) await comeAnew();
  };
  const live = chosen.filter(({ state }) => state === 'live');
  const paused = chosen.filter(({ state }) => state === 'paused');
  if (chosen.length === 0 && left.length === 0) return null;
  return (
    <section
      className="sheet-card sticky bottom-3 z-20 mt-3 flex flex-wrap items-center gap-2 px-4 py-2.5 shadow-lg max-sm:bottom-16"
      aria-label="What to do with those chosen"
    >
      <span className="mr-2 font-semibold">
        {chosen.length} {chosen.length === 1 ? kind : `${kind}s`}
      </span>
      <button
        type="button"
        className="btn btn-plain btn-sm"
        disabled={busy || live.length === 0}
        onClick={() => void all((row) => pause(kind, row, true), live)}
      >
        Pause
      </button>
      <button
        type="button"
        className="btn btn-plain btn-sm"
        disabled={busy || paused.length === 0}
        onClick={() => void all((row) => pause(kind, row, false), paused)}
      >
        Go on
      </button>
      <Popover button="Move to a folder" buttonClass="btn btn-plain btn-sm" panelClass="w-64 p-3 text-left">
        {(close) => (
          <FolderForm
            folders={folders}
            onChoose={(folder) => {
              close();
              void all((row) => move(kind, row, folder));
            }}
          />
        )}
      </Popover>
      {kind === 'workflow' && chosen.length > 0 && (
        <a
          className="btn btn-plain btn-sm"
          href={within(`/api/shares?${chosen.map(({ id }) => `workflow=${id}`).join('&')}`)}
          download
        >
          Share as one file
        </a>
      )}
      <Popover button="Remove" buttonClass="btn btn-ghost btn-sm" panelClass="w-72 p-3 text-left text-note">
        {(close) => (
          <>
            <p className="mb-2 font-semibold">
              Remove {chosen.length === 1 ? `“${chosen[0]!.name}”` : `these ${chosen.length}`}?
            </p>
            <p className="mb-3 text-ink-2">
              What is live or still used stays, and you are told. The others can be put back for 30 days.
            </p>
            <span className="flex gap-2">
              <button
                type="button"
                className="btn btn-primary btn-sm"
                onClick={() => {
                  close();
                  void all((row) => remove(kind, row));
                }}
              >
                Remove them
              </button>
              <button type="button" className="btn btn-ghost btn-sm" onClick={close}>
                Keep them
              </button>
            </span>
          </>
        )}
      </Popover>
      {busy && <span className="loading loading-spinner loading-sm" aria-hidden="true" />}
      {left.length > 0 && (
        <div className="notice warn basis-full" role="alert">
          <p className="font-semibold">
            {left.length === 1 ? 'One stays as it was:' : `${left.length} stay as they were:`}
          </p>
          <ul>
            {left.map(({ name, why }) => (
              <li key={name}>
                {name}: {why}
              </li>
            ))}
          </ul>
          <button type="button" className="link" onClick={() => void comeAnew()}>
            Show the table anew
          </button>
        </div>
      )}
    </section>
  );
}

function FolderForm({ folders, onChoose }: { folders: readonly string[]; onChoose: (folder: string) => void }) {
  const [folder, setFolder] = useState('');
  const there = useId();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        onChoose(folder.trim());
      }}
    >
      <Line label="Folder; empty for none" small value={folder} maxLength={60} list={there} onChange={setFolder} />
      <datalist id={there}>
        {folders.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <button type="submit" className="btn btn-primary btn-sm w-full">
        Move them
      </button>
    </form>
  );
}
