import {
  Combobox,
  ComboboxGroup,
  ComboboxGroupLabel,
  ComboboxItem,
  ComboboxList,
  ComboboxProvider,
} from '@ariakit/react';
import { type ReactNode, useState } from 'react';

/** Something to choose. */
export interface Pickable {
  id: string;
  words: string;
  icon?: ReactNode;
  /** Below its name, in small letters. */
  about?: string | undefined;
  /** At the end of its line: what it holds. */
  value?: string | undefined;
}

export interface PickMenuProps {
  /** What is looked for: "Find a field". */
  label: string;
  /** Those that fit what is typed, the likeliest first. */
  found: (typed: string) => readonly Pickable[];
  onPick: (id: string) => void;
  /** Above all others while nothing is typed: those used of late, under their heading. */
  late?: readonly Pickable[];
  /** What can be chosen besides, while nothing is typed. */
  others?: readonly (readonly [id: string, words: string])[];
  /** Said where there is nothing at all. */
  none?: ReactNode;
}

/** A list to choose from by a few letters, by pointer and by keyboard. In a file of its own: it is fetched once something is opened. */
export default function PickMenu({ label, found, onPick, late = [], others = [], none }: PickMenuProps) {
  const [typed, setTyped] = useState('');
  const blank = typed.trim() === '';
  const shown = found(typed);
  if (blank && shown.length === 0 && others.length === 0) return <p className="p-2 text-ink-2">{none}</p>;
  return (
    <ComboboxProvider setValue={setTyped} value={typed} defaultOpen>
      <Combobox
        autoSelect="always"
        autoFocus
        className="input input-xs mb-1"
        placeholder={label}
        aria-label={label}
        maxLength={100}
      />
      <ComboboxList alwaysVisible className="max-h-72 overflow-y-auto" aria-label={label}>
        {blank &&
          others.map(([id, words]) => (
            <Item key={id} onPick={() => onPick(id)}>
              <span className="text-ink-2">{words}</span>
            </Item>
          ))}
        {blank && late.length > 0 && (
          <ComboboxGroup className="mb-1 border-b border-base-300 pb-1">
            <ComboboxGroupLabel className="px-2 text-xs text-ink-2">Used of late</ComboboxGroupLabel>
            {late.map((one) => (
              <Thing key={`late ${one.id}`} {...one} onPick={() => onPick(one.id)} />
            ))}
          </ComboboxGroup>
        )}
        {shown.map((one) => (
          <Thing key={one.id} {...one} onPick={() => onPick(one.id)} />
        ))}
        {shown.length === 0 && !blank && <p className="p-2 text-ink-2">None of that name.</p>}
      </ComboboxList>
    </ComboboxProvider>
  );
}

const Thing = ({ words, icon, about, value, onPick }: Omit<Pickable, 'id'> & { onPick: () => void }) => (
  <Item onPick={onPick}>
    {icon}
    <span className="min-w-0 grow">
      <span className="block truncate font-semibold text-primary">{words}</span>
      {about && <span className="block truncate text-xs text-ink-2">{about}</span>}
    </span>
    {value && <span className="max-w-[45%] shrink-0 truncate text-note text-ink-2">{value}</span>}
  </Item>
);

const Item = ({ onPick, children }: { onPick: () => void; children: ReactNode }) => (
  <ComboboxItem
    className="flex w-full cursor-pointer items-center gap-2 rounded px-2 py-1 text-left data-[active-item]:bg-pine-soft"
    focusOnHover
    hideOnClick={false}
    setValueOnClick={false}
    onClick={onPick}
  >
    {children}
  </ComboboxItem>
);
