import type { ShownMoment } from '../app/share/look.ts';
import { LANE_LABELS } from '../core/workflow/definition.ts';
import { CardLine } from './CardLine.tsx';
import { KindIcon } from './icons.tsx';

/** A run sheet in small: its moments down the page, what is done beside them. */
export function MomentList({ moments }: { moments: ShownMoment[] }) {
  return (
    <ol className="border-l-2 border-base-300 pl-4">
      {moments.map(({ when, steps }) => (
        <li key={when} className="relative mb-3 last:mb-0">
          <span className="absolute top-1.5 -left-[23px] size-3 rounded-full bg-primary" aria-hidden="true" />
          <h3 className="font-semibold">{when}</h3>
          <ul>
            {steps.map(({ place, inCase, icon, title, line }) => (
              <li key={`${place} ${inCase} ${title} ${line}`} className="flex gap-2 py-0.5">
                <span className="w-24 shrink-0 text-note text-ink-2">{LANE_LABELS[place]}</span>
                <KindIcon name={icon} className="mt-0.5 size-4 shrink-0 text-ink-2" />
                <span className="min-w-0">
                  <span className="font-semibold">{title}</span>
                  {inCase && <span className="text-ink-2"> ({inCase})</span>}
                  {line !== '' && (
                    <span className="line-clamp-3 text-note text-ink-2">
                      <CardLine line={line} />
                    </span>
                  )}
                </span>
              </li>
            ))}
          </ul>
        </li>
      ))}
    </ol>
  );
}
