import { useState } from 'react';
import type { WhereFromView } from '../../app/results/where-from.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useQuery } from '../../client/use-query.ts';
import { MODEL_WORDS } from '../../core/results/models.ts';
import type { Place } from '../../core/words/instant.ts';
import { Behind, type Asked as BehindAsked } from './Behind.tsx';
import { ResultControls } from './ResultControls.tsx';
import { ResultTable } from './ResultTable.tsx';
import { SideBySide } from './SideBySide.tsx';
import { TimeChart } from './TimeChart.tsx';
import { useAddress } from './use-address.ts';

/** Where leads and what came of them come from: the table first, then how it went, then what the other ways of counting say. */
export default function WhereFrom({
  first,
  search,
  place,
  now,
}: {
  first: WhereFromView;
  search: string;
  place: Place;
  now: number;
}) {
  const [asked, change] = useAddress(search);
  const [behind, setBehind] = useState<BehindAsked | null>(null);
  const { value: view, problem } = useQuery(['results', asked], () => call('GET', `/api/results?${asked}`), {
    first,
    at: now,
  });
  const { model, basis, goal } = view.asked;
  const goalName = view.goals.find(({ kind }) => kind === goal)?.name ?? 'What is counted no more';
  return (
    <>
      <ResultControls view={view} search={asked} change={change} />
      <Notice told={problem ? { text: problem, good: false } : null} className="mb-3" />
      <p className="mb-3 text-ink-2">
        {MODEL_WORDS[model].says}{' '}
        {basis === 'came'
          ? 'Everybody who came in these days is counted, with all that has come of them until now; who came lately has had less time.'
          : 'All that happened in these days is counted, whenever those people first came.'}
        {view.waiting > 0 && ` ${view.waiting} more are being reckoned this moment.`}
      </p>
      <ResultTable view={view} goalName={goalName} place={place} open={setBehind} />
      <div className="mt-4 grid grid-cols-1 gap-4 lg:grid-cols-2">
        <TimeChart chart={view.chart} what={goalName} place={place} choose={(unit) => change({ unit })} />
        <SideBySide search={asked} what={goalName} locale={place.locale} />
      </div>
      {behind && (
        <Behind search={asked} asked={behind} own={view.currency} place={place} onClose={() => setBehind(null)} />
      )}
    </>
  );
}
