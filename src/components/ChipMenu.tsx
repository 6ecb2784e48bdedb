import { useContext, useMemo, useState } from 'react';
import { referenceLabel, writeReference } from '../core/template/field-reference.ts';
import { type FilterCall, writeOutput } from '../core/template/filter-call.ts';
import { FILTER_GROUPS } from '../core/template/filters/filter.ts';
import { FILTERS, filterOf } from '../core/template/filters/registry.ts';
import { headOf, templatePieces } from '../core/template/template.ts';
import { workedOn } from '../core/template/work-on.ts';
import type { OpenChip } from './chips.ts';
import { FilterRow } from './FilterRow.tsx';
import { FieldPickerContext } from './field-picker.ts';
import { PopoverAt } from './Popover.tsx';

const GROUPS = Object.entries(FILTER_GROUPS).map(([group, words]) => ({
  words,
  filters: Object.entries(FILTERS).filter(([, filter]) => filter.group === group),
}));

/** A filter as it is put on: with what stands in its boxes at first. */
const begun = (name: string): FilterCall => ({
  name,
  args: (filterOf(name)?.takes ?? []).flatMap(({ takes, first }) =>
    takes === 'pairs' ? [{ text: '' }, { text: '' }] : [{ text: first }],
  ),
});

/** What is done with a field where it stands, one thing after another, each with what comes of it for the sample. */
export function ChipMenu({
  chip,
  host,
  onChange,
  onClose,
}: {
  chip: OpenChip;
  host: HTMLElement | null;
  /** The chip anew; empty takes it out. */
  onChange: (source: string) => void;
  onClose: () => void;
}) {
  const { fields, labels, surroundings } = useContext(FieldPickerContext);
  const [piece] = templatePieces(chip.source);
  const reference = piece?.kind === 'field' ? piece.reference : null;
  const [calls, setCalls] = useState(piece?.kind === 'field' ? piece.filters : []);
  const head = headOf(chip.source);
  const held = (wanted: string) => fields.find((field) => writeReference(field) === wanted)?.value ?? '';
  const value = held(head);
  const results = workedOn(value, calls, (one) => held(writeReference(one)), surroundings);
  const write = (next: FilterCall[]) => {
    setCalls(next);
    onChange(writeOutput(head, next));
  };
  const at = useMemo(
    () => ({
      getBoundingClientRect: () => {
        const box = host?.getBoundingClientRect();
        return new DOMRect((box?.left ?? 0) + chip.left, (box?.top ?? 0) + chip.top, 1, 1);
      },
    }),
    [host, chip.left, chip.top],
  );
  return (
    <PopoverAt at={at} label="What is done with this field" panelClass="w-80 max-w-[94vw] p-2" onClose={onClose}>
      <p className="mb-1 flex items-baseline gap-2 px-1">
        <span className="font-semibold text-primary">
          {reference ? referenceLabel(reference, labels) : head.slice(0, 40)}
        </span>
        <span className="min-w-0 truncate text-note text-ink-2">{value === '' ? 'empty here' : value}</span>
      </p>
      {calls.length > 0 && (
        <ol className="mb-1" aria-label="Done with it, in this order">
          {calls.map((call, i) => (
            <FilterRow
              // biome-ignore lint/suspicious/noArrayIndexKey: the same may be done twice, and each has its boxes
              key={`${i} ${call.name}`}
              call={call}
              result={results[i]!}
              onChange={(args) => write(calls.map((one, j) => (j === i ? { ...one, args } : one)))}
              onRemove={() => write(calls.filter((_, j) => j !== i))}
            />
          ))}
        </ol>
      )}
      <select
        className="select select-sm"
        aria-label="Do something with it"
        value=""
        onChange={(event) => write([...calls, begun(event.target.value)])}
      >
        <option value="">{calls.length === 0 ? 'Do something with it' : 'And then'}</option>
        {GROUPS.map(({ words, filters }) => (
          <optgroup key={words} label={words}>
            {filters.map(([name, filter]) => (
              <option key={name} value={name}>
                {filter.label}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
      <div className="mt-1.5 flex justify-between border-t border-base-300 pt-1.5">
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => onChange('')}>
          Take out
        </button>
        <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
          Done
        </button>
      </div>
    </PopoverAt>
  );
}
