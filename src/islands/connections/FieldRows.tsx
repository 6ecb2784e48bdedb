import { Bare } from '../../components/fields.tsx';
import type { ReadValue, SentField } from '../../core/described/description.ts';
import { Rows } from './Rows.tsx';

const AS: readonly (readonly [SentField['as'], string])[] = [
  ['text', 'text'],
  ['number', 'number'],
  ['yes-no', 'yes or no'],
  ['whole', 'a list as it is'],
];
const READ_AS: readonly (readonly [ReadValue['as'], string])[] = [
  ['text', 'text'],
  ['number', 'number'],
  ['date', 'date'],
  ['money', 'amount'],
  ['whole', 'a list as it is'],
];

export function Pick<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}) {
  return (
    <select
      className="select select-sm"
      style={{ width: 'auto' }}
      aria-label={label}
      value={value}
      onChange={(event) => onChange(event.target.value as T)}
    >
      {options.map(([one, words]) => (
        <option key={one} value={one}>
          {words}
        </option>
      ))}
    </select>
  );
}

/** Values that are sent: their name there, and what goes into them. */
export function FieldRows({
  title,
  rows,
  typed = false,
  onChange,
}: {
  title: string;
  rows: readonly SentField[];
  /** They can be numbers and lists, not text alone. */
  typed?: boolean;
  onChange: (rows: SentField[]) => void;
}) {
  return (
    <Rows
      title={title}
      rows={rows}
      fresh={(): SentField => ({ name: '', value: '', as: 'text', ifEmpty: 'send' })}
      onChange={onChange}
    >
      {(row, set) => (
        <>
          <Bare
            label={`${title}: name`}
            placeholder="name"
            className="font-mono"
            style={{ width: 'auto', flex: '1 1 9rem' }}
            value={row.name}
            onChange={(name) => set({ name })}
          />
          <Bare
            label={`${title}: value of ${row.name || 'this one'}`}
            placeholder="{{ given.to }}"
            className="font-mono"
            style={{ width: 'auto', flex: '2 1 10rem' }}
            maxLength={5000}
            value={row.value}
            onChange={(value) => set({ value })}
          />
          {typed && (
            <Pick
              label={`${row.name || 'This one'} is sent as`}
              value={row.as}
              options={AS}
              onChange={(as) => set({ as })}
            />
          )}
          <Pick
            label={`${row.name || 'This one'}, when it is empty`}
            value={row.ifEmpty}
            options={[
              ['send', 'sent when empty'],
              ['leave-out', 'left out when empty'],
            ]}
            onChange={(ifEmpty) => set({ ifEmpty })}
          />
        </>
      )}
    </Rows>
  );
}

/** Values read from an answer, each under a name of ours. */
export function ReadRows({
  title,
  reads,
  known,
  onChange,
}: {
  title: string;
  reads: Record<string, ReadValue>;
  /** Names that are used, with what they mean. */
  known: Record<string, string>;
  onChange: (reads: Record<string, ReadValue>) => void;
}) {
  const rows = Object.entries(reads).map(([name, read]) => ({ name, ...read }));
  const missing = Object.keys(known).filter((name) => !Object.hasOwn(reads, name));
  return (
    <Rows
      title={title}
      note={
        missing.length > 0 &&
        `Also understood: ${missing.map((name) => `${name} (${known[name]?.toLowerCase()})`).join(', ')}.`
      }
      rows={rows}
      fresh={() => ({ name: missing[0] ?? `value_${rows.length + 1}`, path: '', as: 'text' as const })}
      onChange={(all) => onChange(Object.fromEntries(all.map(({ name, path, as }) => [name, { path, as }])))}
    >
      {(row, set) => (
        <>
          <Bare
            label={`${title}: name`}
            className="font-mono"
            style={{ width: 'auto', flex: '1 1 9rem' }}
            value={row.name}
            onChange={(name) => set({ name })}
          />
          <Bare
            label={`Where ${row.name} stands in the answer`}
            placeholder="$.data.id"
            className="font-mono"
            style={{ width: 'auto', flex: '2 1 10rem' }}
            value={row.path}
            onChange={(path) => set({ path })}
          />
          <Pick label={`${row.name} is`} value={row.as} options={READ_AS} onChange={(as) => set({ as })} />
        </>
      )}
    </Rows>
  );
}
