import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import type { WayGroup } from '../../app/results/way-through.ts';
import { STAGE_WORDS, STAGES } from '../../core/results/way.ts';
import { countWords, shareWords } from './figures.ts';
import { Wide } from './Wide.tsx';

/** How far the people of each campaign or workflow get; an arrow where that is apart from all the others beyond chance. */
export function GroupsTable({
  title,
  none,
  groups,
  locale,
  choose,
}: {
  title: string;
  /** What the group without a name is called. */
  none: string;
  groups: WayGroup[];
  locale: string;
  choose: (only: string) => void;
}) {
  const later = STAGES.slice(1);
  if (groups.length === 0) return null;
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">{title}</h2>
      <p className="mb-2 text-ink-2">An arrow marks what is above or below all the others beyond chance.</p>
      <Wide what={title}>
        <table className="table table-xs results-table w-full">
          <thead>
            <tr>
              <th scope="col" className="text-left">
                Name
              </th>
              <th scope="col">Came in</th>
              {later.map((stage) => (
                <th key={stage} scope="col">
                  {STAGE_WORDS[stage].label}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {groups.map(({ only, name, came, shares, apart }) => (
              <tr key={only}>
                <th scope="row" className="max-w-44 text-left font-medium">
                  <button
                    type="button"
                    className="block max-w-full cursor-pointer truncate text-left underline-offset-2 hover:underline"
                    title={`Show the way of ${name || none}`}
                    onClick={() => choose(only)}
                  >
                    {name || none}
                  </button>
                </th>
                <td className="tabular-nums">{countWords(came, locale)}</td>
                {later.map((stage) => (
                  <td key={stage} className="tabular-nums whitespace-nowrap">
                    {shareWords(shares[stage], locale, 0)}
                    <Apart which={apart[stage]} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}

function Apart({ which }: { which: 'up' | 'down' | null }) {
  if (!which) return <span className="inline-block w-4" />;
  const Arrow = which === 'up' ? ArrowUp : ArrowDown;
  const words = which === 'up' ? 'More than all the others, beyond chance' : 'Fewer than all the others, beyond chance';
  return (
    <span
      title={words}
      className={`ml-0.5 inline-block w-3.5 align-[-2px] ${which === 'up' ? 'text-success' : 'text-error'}`}
    >
      <Arrow className="size-3.5" aria-label={words} />
    </span>
  );
}
