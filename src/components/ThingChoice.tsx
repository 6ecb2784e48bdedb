import { lazy, Suspense } from 'react';
import { noteUsed, usedOfLate } from '../client/used-of-late.ts';
import { foundThings, type Thing } from './found-things.ts';
import { ListPopover } from './ListPopover.tsx';

const PickMenu = lazy(() => import('./PickMenu.tsx'));

interface Props {
  label: string;
  /** What is chosen, for those used of late: "list". */
  what: string;
  things: readonly Thing[];
  /** Its id; empty while nothing is chosen. */
  value: string;
  onChange: (id: string) => void;
  /** What stands there while nothing is chosen. */
  none?: string;
  /** What can be chosen besides. */
  others?: readonly (readonly [id: string, words: string])[];
  field?: string | undefined;
  /** In a row with others, without its label. */
  tiny?: boolean;
}

/** Chooses one of the business's own things by a few letters of its name; those used of late stand first. */
export function ThingChoice({
  label,
  what,
  things,
  value,
  onChange,
  none = 'Choose',
  others = [],
  field,
  tiny = false,
}: Props) {
  const known = things.find(({ id }) => id === value);
  const words = others.find(([id]) => id === value)?.[1] ?? known?.name ?? (value === '' ? none : 'No longer there');
  const item = ({ id, name, about }: Thing) => ({ id, words: name, about });
  const list = (
    <ListPopover label={label} words={words} empty={value === ''} field={field} tiny={tiny}>
      {(close) => (
        <Suspense>
          <PickMenu
            label={`Find: ${label.toLowerCase()}`}
            found={(typed) => foundThings(things, typed).map(item)}
            late={
              things.length < MANY
                ? []
                : usedOfLate(what).flatMap(({ id }) => things.filter((thing) => thing.id === id).map(item))
            }
            others={others}
            none="There is none yet."
            onPick={(id) => {
              close();
              noteUsed(what, { id, name: things.find((thing) => thing.id === id)?.name ?? '' });
              onChange(id);
            }}
          />
        </Suspense>
      )}
    </ListPopover>
  );
  if (tiny) return list;
  return (
    <div className="mb-3">
      <span className="field-label" aria-hidden="true">
        {label}
      </span>
      {list}
    </div>
  );
}

/** Of fewer than this each is seen at once anyway. */
const MANY = 8;
