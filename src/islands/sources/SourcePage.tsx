import { useMemo, useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { KindIcon } from '../../components/icons.tsx';
import type { Place } from '../../core/words/instant.ts';
import { sourceScreens } from '../../sources/forms.ts';
import type { SourcePanelProps } from '../../sources/source-form.ts';
import { call, callAny, messageOf } from '../call.ts';
import RemoveButton from '../RemoveButton.tsx';
import { useLive } from '../use-live.ts';
import { ArrivalDetail } from './ArrivalDetail.tsx';
import { ArrivalList } from './ArrivalList.tsx';
import { askChoices } from './ask-choices.ts';
import type { Catalogue, Caught } from './caught.ts';
import { DayBars } from './DayBars.tsx';
import { FieldCatalogue } from './FieldCatalogue.tsx';
import { LeadCardForm } from './LeadCardForm.tsx';
import { SetupSteps } from './SetupSteps.tsx';
import { SourceHealth } from './SourceHealth.tsx';
import { SourceSettings } from './SourceSettings.tsx';

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
  const [source, setSource] = useState(first);
  const [arrivals, setArrivals] = useState(firstArrivals);
  const [catalogue, setCatalogue] = useState(firstCatalogue);
  const [chosen, setChosen] = useState<string | null>(null);
  const [filter, setFilter] = useState('');
  const [tab, setTab] = useState(
    sourceScreens[first.kind]?.tab?.first ? sourceScreens[first.kind]!.tab!.name : 'Arrivals',
  );
  const [now, setNow] = useState(loadedAt);
  const [told, setTold] = useState<{ text: string; good: boolean } | null>(null);
  const at = `/api/sources/${source.id}` as const;
  const look = async (state = filter) => {
    const [fresh, caught, learnt] = await Promise.all([
      call('GET', at),
      call('GET', `${at}/arrivals?state=${state}`),
      call('GET', `${at}/catalogue`),
    ]);
    setSource(fresh);
    // Older pages that were asked for stay.
    setArrivals((before) => [
      ...caught,
      ...before.filter((one) => caught.length > 0 && one.receivedAt < caught.at(-1)!.receivedAt),
    ]);
    setCatalogue(learnt);
    setNow(Date.now());
  };
  useLive(() => void look().catch(() => {}));
  const tell = (work: Promise<SourceView>, done: string) =>
    work.then(
      (fresh) => {
        setSource(fresh);
        setTold({ text: done, good: true });
      },
      (error: unknown) => setTold({ text: messageOf(error), good: false }),
    );
  const makeWorkflow = () =>
    call('POST', '/api/workflows', {
      name: source.name.slice(0, 120),
      folder: '',
      sourceId: source.id,
    }).then(
      ({ id }) => location.assign(`/workflows/${id}`),
      (error: unknown) => setTold({ text: messageOf(error), good: false }),
    );
  const readable = arrivals.filter((one) => one.state !== 'refused');
  const shown =
    arrivals.find((one) => one.arrivalId === chosen) ?? (source.cardConfirmed ? arrivals[0] : readable[0]) ?? null;
  const sample = shown && shown.state !== 'refused' ? shown : (readable[0] ?? null);
  const { panel: Panel, tab: wide } = sourceScreens[source.kind]!;
  const choices = useMemo(() => askChoices(first.kind), [first.kind]);
  const shared: SourcePanelProps = {
    source,
    practiceUrl,
    change: async (settings) => {
      setSource(await call('PUT', at, { settings }));
      setTold({ text: 'Saved.', good: true });
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
        setSource(await call('PUT', `${at}/card`, saved));
        setTold({
          text: source.cardConfirmed
            ? 'The lead card is saved. It counts from the next arrival on.'
            : wide?.first
              ? 'Every row is being looked at.'
              : 'Done. This source is live. Now a run sheet can listen to it.',
          good: true,
        });
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
        setArrivals([]);
        setChosen(null);
        void look(state);
      }}
      onMore={async () => {
        const older = await call('GET', `${at}/arrivals?state=${filter}&before=${arrivals.at(-1)!.receivedAt}`);
        setArrivals((before) => [...before, ...older]);
        return older.length;
      }}
      onAgain={async (arrivalIds) => {
        try {
          const { done } = await call('POST', `${at}/again`, { arrivalIds });
          setTold({ text: done, good: true });
        } catch (error) {
          setTold({ text: messageOf(error), good: false });
        }
        await look();
      }}
      onFetch={
        source.pull
          ? async () => {
              try {
                const got = await call('POST', `${at}/sample`);
                setTold(got ? null : { text: 'There is nothing to fetch yet.', good: false });
              } catch (error) {
                setTold({ text: messageOf(error), good: false });
              }
              await look();
            }
          : null
      }
    />
  );
  return (
    <main className="mx-auto max-w-[1200px] p-5">
      <div className="mb-3 flex flex-wrap items-center gap-2.5">
        <a className="text-ink-2 hover:underline" href="/sources">
          Sources
        </a>
        <KindIcon name={source.icon} />
        <h1 className="text-xl">{source.name}</h1>
        {!source.once && (
          <span className={`pill ${source.state === 'live' ? 'good' : source.state === 'paused' ? 'warn' : ''}`}>
            {source.state === 'live' ? 'Live' : source.state === 'paused' ? 'Paused' : 'Waiting to be set up'}
          </span>
        )}
        <span className="text-ink-2">{source.kindLabel}</span>
        <span className="grow" />
        {!source.cardConfirmed && (
          <RemoveButton
            size="sm"
            what="source"
            name={source.name}
            stays="What was caught by it stays with the leads, if there are any."
            path={at}
            to="/sources"
          />
        )}
        {source.cardConfirmed && !wide?.first && (
          <button
            type="button"
            className="btn btn-plain btn-sm"
            onClick={() =>
              tell(
                call('PUT', at, { paused: source.state === 'live' }),
                source.state === 'live' ? 'Paused. What comes in is kept, and nothing is sent.' : 'Live again.',
              )
            }
          >
            {source.state === 'live' ? 'Pause this source' : 'Put it live again'}
          </button>
        )}
      </div>
      {told && (
        <p className={`notice mb-3 ${told.good ? 'good' : 'bad'}`} role="alert">
          {told.text}
        </p>
      )}
      {!source.cardConfirmed && (
        <>
          <SetupSteps at={sample ? 4 : 3} />
          {wide && (
            <details className="mb-4" open={!sample || wide.first}>
              <summary className="mb-2 cursor-pointer font-semibold">{wide.name}</summary>
              <wide.content {...shared} />
            </details>
          )}
          <div className="grid gap-4 lg:grid-cols-[380px_minmax(0,1fr)]">
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
            <div className="mb-4 grid gap-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_minmax(0,1fr)]">
              <SourceHealth source={source} place={place} now={now} />
              <DayBars days={catalogue.days} place={place} />
              <section className="sheet-card p-3.5" aria-label="Used by">
                <h2 className="mb-1 text-[13px] text-ink-2">Used by</h2>
                {source.usedBy.length === 0 && (
                  <p>
                    No workflow listens yet.{' '}
                    <button type="button" className="link" onClick={makeWorkflow}>
                      Make a run sheet that listens to it
                    </button>
                    .
                  </p>
                )}
                <ul>
                  {source.usedBy.map((one) => (
                    <li key={one.id}>
                      <a className="font-semibold hover:underline" href={`/workflows/${one.id}`}>
                        {one.name}
                      </a>
                    </li>
                  ))}
                </ul>
              </section>
            </div>
          )}
          <div className="mb-3 flex gap-1 border-b border-base-300" role="tablist" aria-label="Parts of this source">
            {tabs.map((name) => (
              <button
                key={name}
                type="button"
                role="tab"
                aria-selected={tab === name}
                className={`-mb-px border-b-2 px-3 py-1.5 font-medium ${tab === name ? 'border-primary' : 'border-transparent text-ink-2 hover:text-base-content'}`}
                onClick={() => setTab(name)}
              >
                {name}
              </button>
            ))}
          </div>
          {tab === 'Arrivals' && (
            <div className="grid gap-4 lg:grid-cols-[380px_minmax(0,1fr)]">
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
              onSave={(change) => tell(call('PUT', at, change), 'The settings are saved.')}
            />
          )}
        </>
      )}
    </main>
  );
}
