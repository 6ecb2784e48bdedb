import { useCallback, useEffect, useState } from 'react';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { ConnectionChoice, EveryChoice, firstOf, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';
import type { Choice } from '../source-module.ts';

export default function AdFormForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'ad_platform'));
  const [scope, setScope] = useState<'form' | 'page'>('form');
  const [target, setTarget] = useState<Choice | null>(null);
  const [how, setHow] = useState<'push' | 'pull'>('push');
  const [everyMinutes, setEvery] = useState(5);
  const [from, setFrom] = useState<'new' | 'held'>('new');
  const [held, setHeld] = useState<string | null>(null);
  const pulledForm = scope === 'form' && how === 'pull' ? (target?.id ?? '') : '';
  useEffect(() => {
    if (pulledForm === '') return;
    let gone = false;
    choices({ connection, q: pulledForm, of: 'held' }).then(
      (page) => {
        if (!gone) setHeld(page.choices[0]?.label ?? null);
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [choices, connection, pulledForm]);
  const load = useCallback(
    (q: string, after: string | null) => choices({ connection, q, after, of: scope === 'page' ? 'pages' : 'forms' }),
    [choices, connection, scope],
  );
  return (
    <SetupForm
      button={scope === 'page' ? 'Listen to all forms of this page' : 'Listen to this form'}
      ready={target !== null}
      create={create}
      input={() => ({
        kind: 'ad-form',
        connectionId: connection,
        scope,
        targetId: target?.id,
        how: scope === 'page' ? 'push' : how,
        everyMinutes,
        from,
      })}
    >
      <ConnectionChoice
        connections={connections}
        kind="ad_platform"
        label="Ad account"
        value={connection}
        onChange={(id) => {
          setConnection(id);
          setTarget(null);
        }}
      />
      {connection !== '' && (
        <>
          <OneOf
            label="Listen to"
            value={scope}
            options={[
              ['form', 'One form'],
              ['page', 'Every form of a page, also those made later'],
            ]}
            onChange={(value) => {
              setScope(value);
              setTarget(null);
            }}
          />
          <ChoicePicker
            label={scope === 'page' ? 'Which page' : 'Which form'}
            what={`${scope} of ${connection}`}
            load={load}
            chosen={target ? [target.id] : []}
            onChoose={setTarget}
            notLive="Not live: nobody can fill it in"
          />
          {target?.live === false && (
            <p className="notice mb-3">
              {target.label} is not live on the ad platform. You can set it up now; entries come once it is live there.
            </p>
          )}
          {scope === 'form' && (
            <OneOf
              label="How entries come"
              value={how}
              options={[
                ['push', 'At once, the ad platform pushes them', 'The lead hears back in seconds.'],
                ['pull', 'Fetched every few minutes', 'For accounts that cannot push.'],
              ]}
              onChange={setHow}
            />
          )}
          {scope === 'form' && how === 'pull' && (
            <>
              <EveryChoice value={everyMinutes} onChange={setEvery} />
              <OneOf
                label="Begin with"
                value={from}
                options={[
                  ['new', 'New entries only'],
                  [
                    'held',
                    `Everything the ad platform still holds${held === null ? '' : `: ${held} entries`}`,
                    'Oldest first. Each of them goes through the workflows that use this source.',
                  ],
                ]}
                onChange={setFrom}
              />
            </>
          )}
        </>
      )}
    </SetupForm>
  );
}
