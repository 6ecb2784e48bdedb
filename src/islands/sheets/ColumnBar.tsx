import { Choice, Line } from '../../components/fields.tsx';
import { COLUMN_TYPES, type ColumnType, SHADE_WORDS, type Shade, type SheetColumn } from '../../core/sheets/column.ts';
import { namesOf } from '../../core/words/names-of.ts';

const linesOf = (text: string) => [
  ...new Set(
    text
      .split('\n')
      .map((line) => line.trim())
      .filter(Boolean),
  ),
];

/** What can be done with one column; it stands above the grid, which would cut a menu off and take the keys typed in it. */
export function ColumnBar({
  column,
  filter,
  sort,
  onSort,
  onFilter,
  onChange,
  onRemove,
  onClose,
}: {
  column: SheetColumn;
  filter: string;
  sort: 'up' | 'down' | null;
  onSort: (sort: 'up' | 'down' | null) => void;
  onFilter: (value: string) => void;
  /** Null where the person may look only. */
  onChange: ((column: SheetColumn) => void) | null;
  onRemove: (() => void) | null;
  onClose: () => void;
}) {
  return (
    <section className="sheet-card mb-2 flex flex-wrap items-end gap-3 px-3 py-2" aria-label={`Column ${column.name}`}>
      <label className="block">
        <span className="field-label">Name of the column</span>
        <input
          className="input input-sm"
          style={{ width: 180 }}
          defaultValue={column.name}
          readOnly={!onChange}
          onKeyDown={(event) => {
            if (event.key === 'Enter') event.currentTarget.blur();
          }}
          onBlur={(event) => {
            const typed = event.target.value.trim();
            if (typed !== '' && typed !== column.name) onChange?.({ ...column, name: typed });
          }}
        />
      </label>
      <Line
        label="Only rows that contain"
        block="block"
        small
        value={filter}
        style={{ width: 180 }}
        maxLength={2000}
        onChange={onFilter}
      />
      <Choice
        label="Order"
        block="block"
        small
        value={sort ?? ''}
        style={{ width: 170 }}
        onChange={(text) => onSort((text || null) as 'up' | 'down' | null)}
      >
        <option value="">Their own order</option>
        <option value="up">Sorted upwards</option>
        <option value="down">Sorted downwards</option>
      </Choice>
      {onChange && (
        <>
          <Choice
            label="It holds"
            block="block"
            small
            value={column.type ?? 'text'}
            style={{ width: 150 }}
            onChange={(text) => onChange({ ...column, type: text as ColumnType })}
          >
            {Object.entries(COLUMN_TYPES).map(([type, words]) => (
              <option key={type} value={type}>
                {words}
              </option>
            ))}
          </Choice>
          {column.type === 'choice' && (
            <label className="block">
              <span className="field-label">To choose from, one per line</span>
              <textarea
                className="textarea textarea-xs"
                style={{ width: 180 }}
                rows={2}
                defaultValue={column.choices?.join('\n') ?? ''}
                onBlur={(event) => onChange({ ...column, choices: linesOf(event.target.value) })}
              />
            </label>
          )}
          <Choice
            label="Shade"
            block="block"
            small
            value={column.shade ?? ''}
            style={{ width: 110 }}
            onChange={(text) => {
              const { shade: _, ...rest } = column;
              onChange(text === '' ? rest : { ...rest, shade: text as Shade });
            }}
          >
            <option value="">None</option>
            {namesOf(SHADE_WORDS).map((shade) => (
              <option key={shade} value={shade}>
                {SHADE_WORDS[shade]}
              </option>
            ))}
          </Choice>
        </>
      )}
      {onRemove && (
        <button type="button" className="btn btn-ghost btn-sm text-error" onClick={onRemove}>
          Take the column away
        </button>
      )}
      <button type="button" className="btn btn-ghost btn-sm ml-auto" onClick={onClose}>
        Close
      </button>
    </section>
  );
}
