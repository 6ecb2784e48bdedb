import {
  COLUMN_TYPES,
  type ColumnType,
  SHADE_WORDS,
  SHADES,
  type Shade,
  type SheetColumn,
} from '../../core/sheets/column.ts';

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
      <label className="block">
        <span className="field-label">Only rows that contain</span>
        <input
          className="input input-sm"
          style={{ width: 180 }}
          value={filter}
          onChange={(event) => onFilter(event.target.value)}
        />
      </label>
      <label className="block">
        <span className="field-label">Order</span>
        <select
          className="select select-sm"
          style={{ width: 170 }}
          value={sort ?? ''}
          onChange={(event) => onSort((event.target.value || null) as 'up' | 'down' | null)}
        >
          <option value="">Their own order</option>
          <option value="up">Sorted upwards</option>
          <option value="down">Sorted downwards</option>
        </select>
      </label>
      {onChange && (
        <>
          <label className="block">
            <span className="field-label">It holds</span>
            <select
              className="select select-sm"
              style={{ width: 150 }}
              value={column.type ?? 'text'}
              onChange={(event) => onChange({ ...column, type: event.target.value as ColumnType })}
            >
              {Object.entries(COLUMN_TYPES).map(([type, words]) => (
                <option key={type} value={type}>
                  {words}
                </option>
              ))}
            </select>
          </label>
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
          <label className="block">
            <span className="field-label">Shade</span>
            <select
              className="select select-sm"
              style={{ width: 110 }}
              value={column.shade ?? ''}
              onChange={(event) => {
                const { shade: _, ...rest } = column;
                onChange(event.target.value === '' ? rest : { ...rest, shade: event.target.value as Shade });
              }}
            >
              <option value="">None</option>
              {SHADES.map((shade) => (
                <option key={shade} value={shade}>
                  {SHADE_WORDS[shade]}
                </option>
              ))}
            </select>
          </label>
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
