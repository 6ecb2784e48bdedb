import { SPAN_UNITS, type Span, type SpanUnit } from '../core/time/span.ts';

/** An amount of time: a number and its unit. */
export function SpanInput({ label, value, onChange }: { label: string; value: Span; onChange: (span: Span) => void }) {
  return (
    <fieldset className="mb-3">
      <legend className="field-label">{label}</legend>
      <div className="flex gap-2">
        <input
          type="number"
          className="input input-sm"
          style={{ width: '5.5rem' }}
          aria-label={`${label}, how many`}
          min={1}
          max={1000}
          value={value.amount}
          onChange={(event) =>
            onChange({ ...value, amount: Math.max(1, Math.min(1000, Math.round(Number(event.target.value)) || 1)) })
          }
        />
        <select
          className="select select-sm"
          style={{ width: '8rem' }}
          aria-label={`${label}, of what`}
          value={value.unit}
          onChange={(event) => onChange({ ...value, unit: event.target.value as SpanUnit })}
        >
          {SPAN_UNITS.map((unit) => (
            <option key={unit} value={unit}>
              {value.amount === 1 ? unit.slice(0, -1) : unit}
            </option>
          ))}
        </select>
      </div>
    </fieldset>
  );
}
