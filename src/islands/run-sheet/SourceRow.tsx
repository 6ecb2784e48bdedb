import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import { lazy, Suspense } from 'react';
import type { SheetSource } from '../../app/workflows/run-sheet.ts';
import { within } from '../../client/within.ts';
import { AddPopover } from '../../components/AddPopover.tsx';
import { foundThings } from '../../components/found-things.ts';
import { KindIcon } from '../../components/icons.tsx';

const PickMenu = lazy(() => import('../../components/PickMenu.tsx'));

const liveWords = ({ everyMinutes }: SheetSource): string =>
  !everyMinutes
    ? 'at once'
    : everyMinutes === 1
      ? 'looked at every minute'
      : everyMinutes === 60
        ? 'looked at every hour'
        : `looked at every ${everyMinutes} minutes`;

interface Props {
  sources: SheetSource[];
  chosen: string[];
  onToggle: (sourceId: string) => void;
}

/** The sources a sheet listens to, on top of the rope. */
export function SourceRow({ sources, chosen, onToggle }: Props) {
  const rest = sources.filter((source) => !chosen.includes(source.id));
  return (
    <div className="flex flex-wrap items-center gap-1.5" data-testid="sources">
      {chosen.map((id) => {
        const source = sources.find((source) => source.id === id);
        if (!source) return null;
        return (
          <span
            key={id}
            className="flex min-h-[30px] items-center gap-1.5 rounded-lg bg-slate-soft pr-1 pl-2.5 text-note font-semibold text-secondary"
          >
            <KindIcon name={source.icon} />
            <a className="hover:underline" href={within(`/sources/${id}`)}>
              {source.name}
            </a>
            <span className="font-medium">
              {source.state === 'live' ? liveWords(source) : source.state === 'paused' ? 'paused' : 'not set up yet'}
            </span>
            <button
              type="button"
              className="grid size-6 place-items-center rounded hover:bg-base-100"
              aria-label={`Stop listening to ${source.name}`}
              onClick={() => onToggle(id)}
            >
              <X className="size-3.5" />
            </button>
          </span>
        );
      })}
      <AddPopover
        what="Source"
        buttonClass="btn btn-ghost btn-sm text-ink-2"
        panelClass="w-64 p-1"
        placement="bottom-start"
      >
        {(close) => (
          <>
            <Suspense>
              <PickMenu
                label="Find a source"
                found={(typed) =>
                  foundThings(rest, typed).map(({ id, name, icon }) => ({
                    id,
                    words: name,
                    icon: <KindIcon name={icon} />,
                  }))
                }
                none="All sources are on this sheet."
                onPick={(id) => {
                  close();
                  onToggle(id);
                }}
              />
            </Suspense>
            <a className="flex items-center gap-2 rounded px-2 py-1.5 hover:bg-base-200" href={within('/sources/new')}>
              <Plus className="size-4" aria-hidden="true" />
              Set up a new source
            </a>
          </>
        )}
      </AddPopover>
    </div>
  );
}
