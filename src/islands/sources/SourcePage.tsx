import { useMemo, useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { call, callAny } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { withOlder } from '../../client/pages.ts';
import { Tabs } from '../../client/Tabs.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import type { Place } from '../../core/words/instant.ts';
import { sourceScreens } from '../../sources/forms.ts';
import type { SourcePanelProps } from '../../sources/source-form.ts';
import { ArrivalDetail } from './ArrivalDetail.tsx';
import { ArrivalList } from './ArrivalList.tsx';
import { askChoices } from './ask-choices.ts';
import type { Catalogue, Caught } from './caught.ts';
import { DayBars } from './DayBars.tsx';
import { FieldCatalogue } from './FieldCatalogue.tsx';
import { LeadCardForm } from './LeadCardForm.tsx';
import { SetupSteps } from './SetupSteps.tsx';
import { SourceHead } from './SourceHead.tsx';
import { SourceHealth } from './SourceHealth.tsx';
import { SourceSettings } from './SourceSettings.tsx';
import { UsedBy } from './UsedBy.tsx';

interface Props {
  first: SourceView;
  arrivals: Caught[];
  catalogue: Catalogue;
  place: Place;
  now: number;
  practiceUrl: string | null;
}

/** A source: what it is and how it does, what came in, which field is which, and how to put things right. */
export default function SourcePage({
  first,
  arrivals: firstArrivals,
  catalogue: firstCatalogue,
  place,
  now: loadedAt,
  practiceUrl,
}: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [filter, setFilter] = useState('');
  const [tab, setTab] = useState(
    sourceScreens[first.kind]?.tab?.first ? sourceScreens[first.kind]!.tab!.name : 'Arrivals',
  );
  const at = `/api/sources/${first.id}` as const;
  const sourceNow = useQuery(['source', first.id], () => call('GET', at), { first, at: loadedAt });
  const caught = useQuery(
    ['arrivals', first.id, filter],
    async () => ({ filter, rows: await call('GET', `${at}/arrivals?state=${filter}`) }),
    { first: { filter: '', rows: firstArrivals }, at: loadedAt },
  );
  const learnt = useQuery(['catalogue', first.id], () => call('GET', `${at}/catalogue`), {
    first: firstCatalogue,
    at: loadedAt,
  });
  const source = sourceNow.value;
  const catalogue = learnt.value;
  const now = caught.at;
  /** Older pages that were asked for, of this very filter. */
  const [older, setOlder] = useState<{ filter: string; rows: Caught[] } | null>(null);
  // Of another filter nothing stays on the screen, not even for a moment.
  const newest = caught.value.filter === filter ? caught.value.rows : [];
  const arrivals = older?.filter === filter ? withOlder(newest, older.rows, (caught) => caught.receivedAt) : newest;
  const look = async () => {
    await Promise.all([sourceNow.again(), caught.again(), learnt.again()]);
  };
  const { act, told, tell: say } = useAction();
  const tell = (work: () => Promise<SourceView>, done: string) => act(async () => sourceNow.put(await work()), done);
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
      sourceNow.put(await call('PUT', at, { settings }));
      say('Saved.', true);
    },
    choices,
    ask: (method, path, body) => callAny(method, `${at}/${path}`, body),
  };
  const panel = <Panel {...shared} />;
  const tabs = [
    ...(wide?.first ? [wide.name] : []),
    'Arrivals',
    ...(wide && !wide.first ? [wide.name] : []),
    ...(source.brings === 'people' ? ['Lead card'] : []),
    'Fields',
    'Settings',
  ];
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
        sourceNow.put(await call('PUT', `${at}/card`, saved));
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
      onMore={async () => {
        const next = await call('GET', `${at}/arrivals?state=${filter}&before=${arrivals.at(-1)!.receivedAt}`);
        setOlder({ filter, rows: [...arrivals, ...next] });
        return next.length;
      }}
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
          <div className="grid gap-4 grid-cols-1 lg:grid-cols-[380px_minmax(0,1fr)]">
            <div className="min-w-0">
              {panel}
              {list}
            </div>
            <div className="min-w-0">
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
            </div>
          </div>
        </>
      )}
      {source.cardConfirmed && (
        <>
          {!wide?.first && (
            <div className="mb-4 grid gap-3 grid-cols-1 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_minmax(0,1fr)]">
              <SourceHealth source={source} place={place} now={now} />
              <DayBars days={catalogue.days} place={place} />
              <UsedBy workflows={source.usedBy} onMake={() => void makeWorkflow()} />
            </div>
          )}
          <Tabs
            label="Parts of this source"
            tabs={tabs.map((name) => [name, name] as const)}
            chosen={tab}
            onChoose={setTab}
            className="mb-3 flex gap-1 border-b border-base-300"
            tabClass={(on) =>
              `-mb-px border-b-2 px-3 py-1.5 font-medium ${on ? 'border-primary' : 'border-transparent text-ink-2 hover:text-base-content'}`
            }
          >
            {tab === 'Arrivals' && (
              <div className="grid gap-4 grid-cols-1 lg:grid-cols-[380px_minmax(0,1fr)]">
                <div className="min-w-0">
                  {panel}
                  {list}
                </div>
                <div className="min-w-0">
                  {shown && <ArrivalDetail sourceId={source.id} arrival={shown} place={place} now={now} />}
                </div>
              </div>
            )}
            {wide && tab === wide.name && <wide.content {...shared} />}
            {tab === 'Lead card' && (card ?? <p className="text-ink-2">Nothing has come in yet.</p>)}
            {tab === 'Fields' && <FieldCatalogue fields={catalogue.fields} card={source.card} />}
            {tab === 'Settings' && (
              <SourceSettings
                source={source}
                onSave={(change) => tell(() => call('PUT', at, change), 'The settings are saved.')}
              />
            )}
          </Tabs>
        </>
      )}
    </main>
  );
}
