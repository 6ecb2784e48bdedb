import { type CSSProperties, useState } from 'react';
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
  ['list', 'a list of things'],
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

/** Several words with commas between them: what is typed stays as it is typed, a comma at its end too. */
export function Commas({
  label,
  value,
  onChange,
  ...rest
}: {
  label: string;
  value: readonly string[];
  onChange: (value: string[]) => void;
  placeholder?: string;
  className?: string;
  style?: CSSProperties;
}) {
  const read = (text: string) =>
    text
      .split(',')
      .map((one) => one.trim())
      .filter(Boolean);
  const [typed, setTyped] = useState(value.join(', '));
  const shown = read(typed).join() === value.join() ? typed : value.join(', ');
  return (
    <Bare
      label={label}
      maxLength={2000}
      {...rest}
      value={shown}
      onChange={(text) => {
        setTyped(text);
        onChange(read(text));
      }}
    />
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

const rowsOf = (reads: Record<string, ReadValue>) => Object.entries(reads).map(([name, read]) => ({ name, ...read }));

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
  // As they stand here: a name that is just being typed may be another's for a moment, and neither is lost for it.
  const [kept, setKept] = useState({ of: JSON.stringify(reads), rows: rowsOf(reads) });
  const rows = kept.of === JSON.stringify(reads) ? kept.rows : rowsOf(reads);
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
      onChange={(all) => {
        const made = Object.fromEntries(
          all.map(({ name, path, as, of }) => [name, { path, as, ...(as === 'list' ? { of: of ?? {} } : {}) }]),
        );
        setKept({ of: JSON.stringify(made), rows: all });
        onChange(made);
      }}
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
          {row.as === 'list' && (
            <Commas
              label={`What is read of each of ${row.name}`}
              placeholder="name: $.title, quantity: $.count"
              className="font-mono"
              style={{ width: 'auto', flex: '1 1 100%' }}
              value={Object.entries(row.of ?? {}).map(([name, path]) => `${name}: ${path}`)}
              onChange={(all) => set({ of: Object.fromEntries(all.flatMap(partOf)) })}
            />
          )}
        </>
      )}
    </Rows>
  );
}

/** "quantity: $.count" as a name and a path. */
function partOf(text: string): [string, string][] {
  const [name = '', ...path] = text.split(':');
  return /^[a-z][a-z0-9_]*$/.test(name.trim()) ? [[name.trim(), path.join(':').trim()]] : [];
}
