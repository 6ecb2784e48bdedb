import type { TabView } from '../../app/sheets/sheets.ts';
import { AddOne, TakeAway } from '../../components/row-buttons.tsx';
import {
  SHADE_TEST_WORDS,
  SHADE_TESTS,
  SHADE_WORDS,
  type Shade,
  type ShadeRule,
  type ShadeTest,
} from '../../core/sheets/column.ts';
import { namesOf } from '../../core/words/names-of.ts';

/** Rules that shade rows or cells by what stands in them; the first that fits counts. */
export function ShadingPanel({ tab, onChange }: { tab: TabView; onChange: (shading: ShadeRule[]) => void }) {
  const set = (at: number, patch: Partial<ShadeRule>) =>
    onChange(tab.shading.map((rule, i) => (i === at ? { ...rule, ...patch } : rule)));
  return (
    <section className="sheet-card mb-2 p-3" aria-label="Shading">
      {tab.shading.length === 0 && (
        <p className="mb-2 text-note text-ink-2">
          Rows can be shaded by what stands in them: every “Paid” that is empty in amber, say. The first rule that fits
          counts.
        </p>
      )}
      {tab.shading.map((rule, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rules have no name of their own
        <div key={at} className="mb-1.5 flex flex-wrap items-center gap-1.5 text-note">
          Where
          <select
            className="select select-xs"
            style={{ width: 160 }}
            aria-label={`Column of rule ${at + 1}`}
            value={rule.column}
            onChange={(event) => set(at, { column: event.target.value })}
          >
            {tab.columns.map((column) => (
              <option key={column.id} value={column.id}>
                {column.name}
              </option>
            ))}
          </select>
          <select
            className="select select-xs"
            style={{ width: 140 }}
            aria-label={`Test of rule ${at + 1}`}
            value={rule.test}
            onChange={(event) => set(at, { test: event.target.value as ShadeTest })}
          >
            {SHADE_TESTS.map((test) => (
              <option key={test} value={test}>
                {SHADE_TEST_WORDS[test]}
              </option>
            ))}
          </select>
          {rule.test !== 'is_filled' && rule.test !== 'is_empty' && (
            <input
              className="input input-xs"
              style={{ width: 140 }}
              aria-label={`Value of rule ${at + 1}`}
              defaultValue={rule.value}
              onBlur={(event) => event.target.value !== rule.value && set(at, { value: event.target.value })}
            />
          )}
          shade
          <select
            className="select select-xs"
            style={{ width: 100 }}
            aria-label={`What rule ${at + 1} shades`}
            value={rule.row ? 'row' : 'cell'}
            onChange={(event) => set(at, { row: event.target.value === 'row' })}
          >
            <option value="row">the row</option>
            <option value="cell">the cell</option>
          </select>
          <select
            className={`select select-xs shade-${rule.shade}`}
            style={{ width: 100 }}
            aria-label={`Shade of rule ${at + 1}`}
            value={rule.shade}
            onChange={(event) => set(at, { shade: event.target.value as Shade })}
          >
            {namesOf(SHADE_WORDS).map((shade) => (
              <option key={shade} value={shade}>
                {SHADE_WORDS[shade]}
              </option>
            ))}
          </select>
          <TakeAway label={`Remove rule ${at + 1}`} onClick={() => onChange(tab.shading.filter((_, i) => i !== at))} />
        </div>
      ))}
      <AddOne
        onClick={() =>
          onChange([
            ...tab.shading,
            { column: tab.columns[0]!.id, test: 'is_filled', value: '', shade: 'brass', row: true },
          ])
        }
      >
        Add a rule
      </AddOne>
    </section>
  );
}
