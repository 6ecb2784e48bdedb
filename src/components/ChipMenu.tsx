import { useMemo, useState } from 'react';
import { FIELD_FILTERS } from '../core/template/filters.ts';
import { headOf, templatePieces } from '../core/template/template.ts';
import type { OpenChip } from './chips.ts';
import { Bare } from './fields.tsx';
import { PopoverAt } from './Popover.tsx';

/** How a field is tidied, and what is said when it is empty. */
export function ChipMenu({
  chip,
  host,
  onPick,
  onClose,
}: {
  chip: OpenChip;
  host: HTMLElement | null;
  onPick: (source: string) => void;
  onClose: () => void;
}) {
  const [piece] = templatePieces(chip.source);
  const filters = piece?.kind === 'field' ? piece.filters : [];
  const head = headOf(chip.source);
  const [fallback, setFallback] = useState(filters.find((filter) => filter.name === 'default')?.argument ?? '');
  const write = (list: { name: string; argument: string | null }[]) =>
    onPick(
      `{{ ${[head, ...list.map(({ name, argument }) => (argument === null ? name : `${name}: ${/^\d+$/.test(argument) ? argument : `"${argument.replaceAll('"', '')}"`}`))].join(' | ')} }}`,
    );
  const toggle = (name: string) =>
    write(
      filters.some((filter) => filter.name === name)
        ? filters.filter((filter) => filter.name !== name)
        : [...filters, { name, argument: null }],
    );
  const at = useMemo(
    () => ({
      getBoundingClientRect: () => {
        const box = host?.getBoundingClientRect();
        return new DOMRect((box?.left ?? 0) + chip.left, (box?.top ?? 0) + chip.top, 1, 1);
      },
    }),
    [host, chip],
  );
  return (
    <PopoverAt at={at} label="Tidy this field" panelClass="w-52 p-1" onClose={onClose}>
      {Object.entries(FIELD_FILTERS)
        .filter(([, filter]) => filter.takes === null)
        .map(([name, filter]) => (
          <button
            key={name}
            type="button"
            role="menuitemcheckbox"
            aria-checked={filters.some((filter) => filter.name === name)}
            className="flex w-full items-center gap-2 rounded px-2 py-1 text-left hover:bg-base-200"
            onClick={() => toggle(name)}
          >
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              readOnly
              tabIndex={-1}
              checked={filters.some((filter) => filter.name === name)}
            />
            {filter.label}
          </button>
        ))}
      <form
        className="flex items-center gap-1 px-2 py-1"
        onSubmit={(event) => {
          event.preventDefault();
          write([
            ...filters.filter((filter) => filter.name !== 'default'),
            ...(fallback ? [{ name: 'default', argument: fallback }] : []),
          ]);
        }}
      >
        <Bare tiny label="If empty, say" placeholder="if empty, say" value={fallback} onChange={setFallback} />
        <button type="submit" className="btn btn-plain btn-xs">
          Use
        </button>
      </form>
      <div className="flex justify-between border-t border-base-300 pt-1">
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => onPick('')}>
          Take out
        </button>
        <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
          Close
        </button>
      </div>
    </PopoverAt>
  );
}
