import { useMemo, useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { call, callAny } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import type { Place } from '../../core/words/instant.ts';
import { sourceScreens } from '../../sources/forms.ts';
import type { SourcePanelProps } from '../../sources/source-form.ts';
import { ArrivalDetail } from './ArrivalDetail.tsx';
import { ArrivalList } from './ArrivalList.tsx';
import { askChoices } from './ask-choices.ts';
import { Beside } from './Beside.tsx';
import type { Caught, Learnt } from './caught.ts';
import { DayBars } from './DayBars.tsx';
import { LeadCardForm } from './LeadCardForm.tsx';
import { SetupSteps } from './SetupSteps.tsx';
import { SourceHead } from './SourceHead.tsx';
import { SourceHealth } from './SourceHealth.tsx';
import { SourceParts } from './SourceParts.tsx';
import { UsedBy } from './UsedBy.tsx';
import { useSource } from './use-source.ts';

interface Props {
  first: SourceView;
  arrivals: Caught[];
  learnt: Learnt;
  place: Place;
  now: number;
  practiceUrl: string | null;
}

/** A source: what it is and how it does, what came in, which field is which, and how to put things right. */
export default function SourcePage({
  first,
  arrivals: firstArrivals,
  learnt: firstLearnt,
  place,
  now: loadedAt,
  practiceUrl,
}: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [filter, setFilter] = useState('');
  const { at, source, put, learnt, arrivals, more, look, now } = useSource(
    first,
    firstArrivals,
    firstLearnt,
    loadedAt,
    filter,
  );
  const { act, told, tell: say } = useAction();
  const tell = (work: () => Promise<SourceView>, done: string) => act(async () => put(await work()), done);
  const makeWorkflow = () =>
    act(async () => {
      const about = { name: source.name.slice(0, 120), folder: '', sourceId: source.id };
      await goTo(`/workflows/${(await call('POST', '/api/workflows', about)).id}`);
    });
  const readable = arrivals.filter((arrival) => arrival.state !== 'refused');
  const shown =
    arrivals.find((arrival) => arrival.arrivalId === chosen) ??
    (source.cardConfirmed ? arrivals[0] : readable[0]) ??
    null;
  const sample = shown && shown.state !== 'refused' ? shown : (readable[0] ?? null);
  const { panel: Panel, tab: wide } = sourceScreens[source.kind]!;
  const choices = useMemo(() => askChoices(first.kind), [first.kind]);
  const shared: SourcePanelProps = {
    source,
    practiceUrl,
    change: async (settings) => {
      put(await call('PUT', at, { settings }));
      say('Saved.', true);
    },
    choices,
    ask: (method, path, body) => callAny(method, `${at}/${path}`, body),
  };
  const panel = <Panel key="panel" {...shared} />;
  const card = sample && (
    <LeadCardForm
      key={`${sample.arrivalId}-${source.cardConfirmed}`}
      fields={sample.fields}
      start={source.cardConfirmed ? source.card : sample.guess}
      confirmed={source.cardConfirmed}
      news={source.brings === 'news'}
      firstButton={wide?.first ? 'This is right, look at every row' : 'This is right, put the source live'}
      usedBy={source.usedBy}
      onSave={async (saved) => {
        put(await call('PUT', `${at}/card`, saved));
        say(
          source.cardConfirmed
            ? 'The lead card is saved. It counts from the next arrival on.'
            : wide?.first
              ? 'Every row is being looked at.'
              : 'Done. This source is live. Now a run sheet can listen to it.',
          true,
        );
      }}
    />
  );
  const list = (
    <ArrivalList
      key="list"
      source={source}
      arrivals={arrivals}
      chosen={shown?.arrivalId ?? null}
      filter={filter}
      place={place}
      now={now}
      onChoose={setChosen}
      onFilter={(state) => {
        setFilter(state);
        setChosen(null);
      }}
      onMore={more}
      onAgain={async (arrivalIds) => {
        await act(
          () => call('POST', `${at}/again`, { arrivalIds }),
          ({ done }) => done,
        );
        await look();
      }}
      onFetch={
        source.pull
          ? async () => {
              await act(async () => {
                if (!(await call('POST', `${at}/sample`))) say('There is nothing to fetch yet.', false);
              });
              await look();
            }
          : null
      }
    />
  );
  return (
    <main className="mx-auto max-w-[1200px] p-5">
      <SourceHead
        source={source}
        wide={wide?.first === true}
        onPause={(paused) =>
          void tell(
            () => call('PUT', at, { paused }),
            paused ? 'Paused. What comes in is kept, and nothing is sent.' : 'Live again.',
          )
        }
      />
      <Notice told={told} className="mb-3" />
      {!source.cardConfirmed && (
        <>
          <SetupSteps at={sample ? 4 : 3} />
          {wide && (
            <details className="mb-4" open={!sample || wide.first}>
              <summary className="mb-2 cursor-pointer font-semibold">{wide.name}</summary>
              <wide.content {...shared} />
            </details>
          )}
          <Beside left={[panel, list]}>
            {shown?.state === 'refused' ? (
              <ArrivalDetail sourceId={source.id} arrival={shown} place={place} now={now} />
            ) : (
              card || (
                <section className="sheet-card p-6 text-ink-2">
                  {source.brings === 'news'
                    ? 'Once something has come in, its fields stand here.'
                    : 'Once something has come in, its fields stand here and you say which is the name, the email, the phone and the consent.'}
                </section>
              )
            )}
          </Beside>
        </>
      )}
      {source.cardConfirmed && (
        <>
          {!wide?.first && (
            <div className="mb-4 grid gap-3 grid-cols-1 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_minmax(0,1fr)]">
              <SourceHealth source={source} place={place} now={now} />
              <DayBars days={learnt.days} place={place} />
              <UsedBy workflows={source.usedBy} onMake={() => void makeWorkflow()} />
            </div>
          )}
          <SourceParts
            {...{ source, learnt, shared, panel, card }}
            left={[panel, list]}
            arrival={shown && <ArrivalDetail sourceId={source.id} arrival={shown} place={place} now={now} />}
            onSettings={(change) => tell(() => call('PUT', at, change), 'The settings are saved.')}
          />
        </>
      )}
    </main>
  );
}
