import { useEffect, useState } from 'react';
import type { TablesView } from '../../app/account/written-tables.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import type { WrittenTable } from '../../core/outside/written-table.ts';
import { askChoices } from '../sources/ask-choices.ts';
import { ListedForSteps } from './ListedForSteps.tsx';

interface Props {
  id: string;
  first: TablesView;
}
const asked = askChoices('workbook');

/** Tables in files that lie there, which steps write rows to. */
export default function WrittenTables({ id, first }: Props) {
  return (
    <ListedForSteps<WrittenTable>
      title="Tables that rows are written to"
      first={{ items: first.tables, seen: first.seen }}
      save={async (items, since) => {
        const { tables, seen } = await call('PUT', `/api/connections/${id}/tables`, { tables: items }, since);
        return { items: tables, seen };
      }}
      words={({ path, columns, by }) =>
        `${path}: ${columns.join(', ')}; ${by === '' ? 'a new row each time' : `one row for each ${by}`}`
      }
      kept="Kept. Steps can write to it."
      gone="It is taken out. The file stays as it is."
      add="Add a table"
      form={(made) => <NewTable id={id} {...made} />}
    >
      A CSV file here, and the columns that are filled in, with the step “Put on record elsewhere”. What others write in
      the file stays as it is, even if they save it at the same moment.
    </ListedForSteps>
  );
}

interface NewProps {
  id: string;
  busy: boolean;
  onKeep: (made: Omit<WrittenTable, 'key'>) => void;
  onCancel: () => void;
}
const parted = (text: string) => text.split(',').flatMap((name) => name.trim() || []);

function NewTable({ id, busy, onKeep, onCancel }: NewProps) {
  const [files, setFiles] = useState<string[]>([]);
  const [label, setLabel] = useState('');
  const [path, setPath] = useState('');
  /** Names of the columns that stand in the file; null until it was looked at. */
  const [there, setThere] = useState<string[] | null>(null);
  const [chosen, setChosen] = useState<string[]>([]);
  const [more, setMore] = useState('');
  const [by, setBy] = useState('');
  const { act, busy: looking, told } = useAction();
  const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
  useEffect(() => {
    let current = true;
    // A place that lists nothing is written to all the same.
    asked({ connection: id, of: 'files', q: folder }).then(
      ({ choices }) => current && setFiles(choices.flatMap((one) => (one.id.endsWith('.xlsx') ? [] : one.id))),
      () => current && setFiles([]),
    );
    return () => {
      current = false;
    };
  }, [id, folder]);
  const look = () =>
    act(async () => {
      const found = (await asked({ connection: id, of: `columns:${path.trim()}` })).choices.map((one) => one.id);
      setThere(found);
      setChosen(found);
      setBy(found.find((name) => /mail/i.test(name)) ?? '');
    });
  const columns = [...chosen, ...parted(more)];
  return (
    <form
      className="grid gap-x-4 gap-y-2 md:grid-cols-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (there === null) void look();
        else onKeep({ label, path: path.trim(), columns, by: columns.includes(by) ? by : '' });
      }}
    >
      <Line
        label="What a row of it is"
        small
        required
        maxLength={60}
        placeholder="Camp entry"
        value={label}
        onChange={setLabel}
      />
      <Line
        label="Which file, with the folders it is in"
        small
        required
        maxLength={1000}
        placeholder="camp/entries.csv"
        list="files-to-write"
        value={path}
        onChange={(next) => {
          setPath(next);
          setThere(null);
        }}
      />
      <datalist id="files-to-write">
        {files.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      {there !== null && (
        <>
          {there.length === 0 ? (
            <p className="text-note text-ink-2 md:col-span-2">
              There is no such file yet: it is made with the first row, with the columns you name.
            </p>
          ) : (
            <fieldset className="md:col-span-2">
              <legend className="field-label">Columns that are filled in</legend>
              <div className="flex flex-wrap gap-x-4">
                {there.map((name) => (
                  <Tick
                    key={name}
                    label={name}
                    value={chosen.includes(name)}
                    onChange={(on) => setChosen(there.filter((one) => (one === name ? on : chosen.includes(one))))}
                  />
                ))}
              </div>
            </fieldset>
          )}
          <Line
            label={there.length === 0 ? 'Columns, with commas between them' : 'More columns, added behind the others'}
            small
            maxLength={1000}
            placeholder="Name, Email, Instrument"
            value={more}
            onChange={setMore}
          />
          <Choice
            label="A row is found again by"
            small
            value={columns.includes(by) ? by : ''}
            options={[['', 'nothing: a new row each time'], ...columns.map((name) => [name, name] as const)]}
            onChange={setBy}
          />
          {!columns.includes(by) && (
            <p className="text-note text-ink-2 md:col-span-2">
              A column “Reference” is added, so that no row is written twice.
            </p>
          )}
        </>
      )}
      <div className="flex gap-2 md:col-span-2">
        <button
          className="btn btn-primary btn-sm"
          type="submit"
          disabled={busy || looking || (there !== null && columns.length === 0)}
        >
          {there === null ? 'Look at the file' : 'Keep it'}
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onCancel}>
          Cancel
        </button>
      </div>
      <Notice told={told} className="md:col-span-2" />
    </form>
  );
}
