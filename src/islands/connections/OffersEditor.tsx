import { Bare, Choice } from '../../components/fields.tsx';
import type { Description, LookUp, RecordKind } from '../../core/described/description.ts';
import { keyFromLabel } from '../../core/fields/field.ts';
import { Rows } from './Rows.tsx';

/** A key made from what it is called, in the letters a description takes. */
const keyOf = (label: string, fallback: string) =>
  keyFromLabel(label.normalize('NFD').replace(/\p{M}/gu, ''), 40)
    .replace(/[^a-z0-9_]/g, '')
    .replace(/^[^a-z]+/, '') || fallback;

function NamedRows({
  title,
  rows,
  onChange,
}: {
  title: string;
  rows: readonly { key: string; label: string }[];
  onChange: (rows: { key: string; label: string }[]) => void;
}) {
  return (
    <Rows title={title} rows={rows} fresh={() => ({ key: '', label: '' })} onChange={onChange}>
      {(row, set) => (
        <>
          <Bare
            label={`${title}: name for people`}
            placeholder="First name"
            style={{ width: 'auto', flex: '2 1 8rem' }}
            value={row.label}
            onChange={(label) =>
              set({ label, key: row.key === '' || row.key === keyOf(row.label, '') ? keyOf(label, '') : row.key })
            }
          />
          <Bare
            label={`${title}: name in the calls`}
            placeholder="first_name"
            className="font-mono"
            style={{ width: 'auto', flex: '1 1 9rem' }}
            value={row.key}
            onChange={(key) => set({ key })}
          />
        </>
      )}
    </Rows>
  );
}

/** What a service can be used for in workflows: records, questions, things that are fetched. */
export function OffersEditor({ value, change }: { value: Description; change: (patch: Partial<Description>) => void }) {
  const calls: [string, string][] = Object.keys(value.calls).map((name) => [name, name]);
  const withNone: [string, string][] = [['', 'none'], ...calls];
  return (
    <>
      <Rows
        title="Records kept there"
        add="Add a kind of record"
        rows={value.records}
        fresh={(): RecordKind => ({
          key: `record_${value.records.length + 1}`,
          label: '',
          takes: [{ key: 'email', label: 'Email', needed: true }],
          find: null,
          create: calls[0]?.[0] ?? '',
          update: null,
        })}
        onChange={(records) => change({ records })}
      >
        {(row, set) => (
          <div className="grow rounded-lg bg-base-200 p-2">
            <Bare
              label="What it is called"
              placeholder="Contact"
              className="mb-2 w-full"
              value={row.label}
              onChange={(label) => set({ label })}
            />
            <div className="grid gap-x-3 sm:grid-cols-3">
              <Choice
                label="Looked for by"
                small
                value={row.find ?? ''}
                options={withNone}
                onChange={(find) => set({ find: find || null })}
              />
              <Choice label="Made by" small value={row.create} options={calls} onChange={(create) => set({ create })} />
              <Choice
                label="Brought up to date by"
                small
                value={row.update ?? ''}
                options={withNone}
                onChange={(update) => set({ update: update || null })}
              />
            </div>
            <NamedRows
              title="What a step fills in"
              rows={row.takes}
              onChange={(takes) => set({ takes: takes.map((one) => ({ needed: false, ...one })) })}
            />
          </div>
        )}
      </Rows>
      <Rows
        title="Questions it answers"
        add="Add a question"
        rows={value.lookUps}
        fresh={(): LookUp => ({
          key: `question_${value.lookUps.length + 1}`,
          label: '',
          takes: [{ key: 'email', label: 'Email' }],
          call: calls[0]?.[0] ?? '',
          gives: [{ key: 'name', label: 'Name' }],
        })}
        onChange={(lookUps) => change({ lookUps })}
      >
        {(row, set) => (
          <div className="grow rounded-lg bg-base-200 p-2">
            <Bare
              label="What is asked for"
              placeholder="Organisation"
              className="mb-2 w-full"
              value={row.label}
              onChange={(label) => set({ label })}
            />
            <Choice
              label="Asked by the call"
              small
              value={row.call}
              options={calls}
              onChange={(call) => set({ call })}
            />
            <NamedRows title="Asked by" rows={row.takes} onChange={(takes) => set({ takes })} />
            <NamedRows
              title="What its call reads, for later steps"
              rows={row.gives}
              onChange={(gives) => set({ gives })}
            />
          </div>
        )}
      </Rows>
      <Rows
        title="Things that are fetched for a source"
        add="Add a thing"
        rows={value.fetches}
        fresh={() => ({ key: `new_${value.fetches.length + 1}`, label: '', call: calls[0]?.[0] ?? '' })}
        onChange={(fetches) => change({ fetches })}
      >
        {(row, set) => (
          <>
            <Bare
              label="What is fetched"
              placeholder="New enquiries"
              style={{ width: 'auto', flex: '2 1 10rem' }}
              value={row.label}
              onChange={(label) => set({ label })}
            />
            <Choice label="By the call" small value={row.call} options={calls} onChange={(call) => set({ call })} />
          </>
        )}
      </Rows>
    </>
  );
}
