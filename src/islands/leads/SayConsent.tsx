import { useState } from 'react';
import { call } from '../../client/call.ts';
import { comeAnew } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { CHANNEL_WORDS, CHANNELS, type Channel } from '../../core/workflow/channel.ts';
import { PURPOSE_WORDS, type Purpose } from '../../core/workflow/purpose.ts';

/** Writes down what somebody said, on the phone or at the counter, about being written to. */
export default function SayConsent({ leadId }: { leadId: string }) {
  const [channel, setChannel] = useState<Channel>('text');
  const [purpose, setPurpose] = useState<Purpose | 'all'>('all');
  const [state, setState] = useState<'given' | 'withdrawn'>('withdrawn');
  const [how, setHow] = useState('');
  const { act, busy, told } = useAction();
  const save = () =>
    act(async () => {
      await call('POST', `/api/leads/${leadId}/consents`, {
        ...{ channel, purpose: purpose === 'all' ? null : purpose, state, how },
      });
      await comeAnew();
    });
  return (
    <details className="sheet-card mb-5 p-4">
      <summary className="cursor-pointer font-semibold">They told you something else</summary>
      <p className="mt-2 mb-3 text-note text-ink-2">
        On the phone or at the counter, for instance. It counts from now on, and stands below with your name.
      </p>
      <div className="grid gap-x-4 md:grid-cols-4">
        <Choice
          label="They"
          value={state}
          options={[
            ['withdrawn', 'want no more'],
            ['given', 'agree to'],
          ]}
          onChange={setState}
        />
        <Choice
          label="Which"
          value={channel}
          options={CHANNELS.map((channel) => [channel, CHANNEL_WORDS[channel].many] as const)}
          onChange={setChannel}
        />
        <Choice
          label="About"
          value={purpose}
          options={[
            ['all', 'everything'],
            ['service', PURPOSE_WORDS.service],
            ['marketing', PURPOSE_WORDS.marketing],
          ]}
          onChange={setPurpose}
        />
        <Line label="How they told you" value={how} placeholder="On the phone" maxLength={300} onChange={setHow} />
      </div>
      <Notice told={told} className="mb-2" />
      <button
        type="button"
        className="btn btn-plain btn-sm"
        disabled={busy || how.trim() === ''}
        onClick={() => void save()}
      >
        Write it down
      </button>
    </details>
  );
}
