import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import ChevronRight from 'lucide-react/icons/chevron-right';
import { Fragment, useState } from 'react';
import type { ShownRow, WhereFromView } from '../../app/results/where-from.ts';
import { MARK_WORDS } from '../../core/results/origin.ts';
import { SORTED_BY } from '../../core/results/sortings.ts';
import type { Place } from '../../core/words/instant.ts';
import type { Asked } from './Behind.tsx';
import { countWords, eachWords, heat, shareWords, sumsWords } from './figures.ts';
import { Wide } from './Wide.tsx';

const NONE: Readonly<Record<string, string>> = {
  source: 'No lead source',
  workflow: 'No workflow',
  colleague: 'Nobody’s',
  segments: 'In no segment',
  segment: 'In no segment',
};
const TINT = ['', 'tint-1', 'tint-2', 'tint-3', 'tint-4'];

/** Rows of places, opened to those within them; the strongest cells stand out. Every number opens the people behind it. */
export function ResultTable({
  view,
  goalName,
  place,
  open,
}: {
  view: WhereFromView;
  goalName: string;
  place: Place;
  open: (asked: Asked) => void;
}) {
  const { all, asked } = view;
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const toggle = (key: string) => {
    const next = new Set(opened);
    if (!next.delete(key)) next.add(key);
    setOpened(next);
  };
  const rated = all.rate !== null;
  const most = {
    goal: Math.max(0, ...all.children.map((row) => row.goal)),
    sales: Math.max(0, ...all.children.map((row) => row.sales)),
  };
  const keys = SORTED_BY[asked.by].path;
  const nameOf = (path: string[]): string => {
    if (path.length === 0) return 'All of it';
    const key = keys[path.length - 1]!;
    return path.at(-1) || (key in NONE ? NONE[key]! : MARK_WORDS[key as 'campaign'].none);
  };
  const lines = (rows: ShownRow[]) => rows.map((row) => line(row));
  const line = (row: ShownRow) => {
    const key = JSON.stringify(row.path);
    const depth = row.path.length;
    const isOpen = opened.has(key);
    const name = nameOf(row.path);
    const number = (kind: string, words: string, what: string) =>
      words === '' ? (
        <span className="text-ink-3">–</span>
      ) : (
        <button
          type="button"
          className="cursor-pointer tabular-nums underline-offset-2 hover:underline"
          title={`Who they are: ${what}, ${name}`}
          onClick={() => open({ kind, path: row.path, what, name })}
        >
          {words}
        </button>
      );
    const locale = place.locale;
    return (
      <Fragment key={key}>
        <tr className={depth === 0 ? 'border-t-2 border-base-300 font-semibold' : depth === 1 ? 'font-medium' : ''}>
          <th
            scope="row"
            className="max-w-72 text-left font-[inherit]"
            style={{ paddingLeft: `${Math.max(0, depth - 1) * 20 + 8}px` }}
          >
            {depth > 0 && row.children.length > 0 ? (
              <button
                type="button"
                className="flex max-w-full cursor-pointer items-center gap-1 text-left"
                aria-expanded={isOpen}
                onClick={() => toggle(key)}
              >
                <ChevronRight className={`size-4 shrink-0 ${isOpen ? 'rotate-90' : ''}`} />
                <span className="truncate">{name}</span>
              </button>
            ) : (
              <span className={`block truncate ${depth > 0 ? 'pl-5' : ''}`}>{name}</span>
            )}
          </th>
          {view.costed && <td className="tabular-nums">{sumsWords(row.cost, view.currency, locale) || <None />}</td>}
          <td>
            {number('lead', row.leads > 0 ? countWords(row.leads, locale) : '', 'leads')}
            <Change which={row.leadsChanged} before={countWords(row.leadsBefore, locale)} />
          </td>
          <td>
            {row.inTime === null ? (
              <None />
            ) : (
              number('in_five', shareWords(row.inTime, locale, 0), 'answered within 5 minutes')
            )}
          </td>
          <td className={depth === 1 ? TINT[heat(row.goal, most.goal)] : ''}>
            {number(asked.goal, row.goal > 0 ? countWords(row.goal, locale) : '', goalName.toLowerCase())}
            <Change which={row.goalChanged} before={countWords(row.goalBefore, locale)} />
          </td>
          {rated && (
            <td className="whitespace-nowrap">
              {row.rate ? (
                <>
                  {shareWords(row.rate.did / row.rate.of, locale)}{' '}
                  <span className="text-xs text-ink-3">
                    {Math.round(row.rate.low * 100)} to {Math.round(row.rate.high * 100)}
                  </span>
                  <Change which={row.rate.changed} before="" />
                </>
              ) : (
                <None />
              )}
            </td>
          )}
          <td className={depth === 1 ? TINT[heat(row.sales, most.sales)] : ''}>
            {number('sales', row.sales > 0 ? countWords(row.sales, locale) : '', 'sales')}
          </td>
          <td
            title={
              Object.keys(row.moneyBefore).length > 0
                ? `In the time before: ${sumsWords(row.moneyBefore, view.currency, locale)}`
                : undefined
            }
          >
            {number('money', sumsWords(row.money, view.currency, locale), 'money')}
            {Object.values(row.refunds).some((sum) => sum !== 0) && (
              <span className="block text-xs text-ink-3">
                {sumsWords(row.refunds, view.currency, locale)} given back
              </span>
            )}
          </td>
          {view.costed && (
            <>
              <td className="tabular-nums">{eachWords(row.cost, row.leads, view.currency, locale) || <None />}</td>
              <td className="tabular-nums">{eachWords(row.cost, row.goal, view.currency, locale) || <None />}</td>
              <td className="tabular-nums">{eachWords(row.cost, row.sales, view.currency, locale) || <None />}</td>
            </>
          )}
        </tr>
        {isOpen && lines(row.children)}
      </Fragment>
    );
  };
  return (
    <div className="sheet-card">
      <Wide what="Where they come from">
        <table className="table table-sm results-table w-full">
          <thead>
            <tr>
              <th scope="col" className="text-left">
                {SORTED_BY[asked.by].label}
              </th>
              {view.costed && <th scope="col">Cost</th>}
              <th scope="col">Leads</th>
              <th scope="col">In 5 min</th>
              <th scope="col">{goalName}</th>
              {rated && <th scope="col">Rate, 95 % range</th>}
              <th scope="col">Sales</th>
              <th scope="col">Money</th>
              {view.costed && (
                <>
                  <th scope="col">Per lead</th>
                  <th scope="col">Per {singular(goalName)}</th>
                  <th scope="col">Per sale</th>
                </>
              )}
            </tr>
          </thead>
          <tbody>
            {lines(all.children)}
            {line(all)}
          </tbody>
        </table>
      </Wide>
      {all.children.length === 0 && <p className="p-4 text-ink-2">Nobody came in these days. Choose others above.</p>}
    </div>
  );
}

const None = () => <span className="text-ink-3">–</span>;
const singular = (name: string) => (name === 'Appointments' ? 'appointment' : 'one of them');

/** Only what is no chance. */
function Change({ which, before }: { which: 'up' | 'down' | null; before: string }) {
  if (!which) return null;
  const Arrow = which === 'up' ? ArrowUp : ArrowDown;
  const words = `${which === 'up' ? 'More' : 'Less'} than in the time before${before === '' ? '' : ` (${before})`}, beyond chance`;
  return (
    <span title={words} className={`ml-1 inline-block align-[-2px] ${which === 'up' ? 'text-success' : 'text-error'}`}>
      <Arrow className="size-3.5" aria-label={words} />
    </span>
  );
}
