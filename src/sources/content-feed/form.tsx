import { useState } from 'react';
import { Line } from '../../components/fields.tsx';
import { EveryChoice, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function FeedForm({ create }: SourceFormProps) {
  const [address, setAddress] = useState('');
  const [everyMinutes, setEvery] = useState(15);
  return (
    <SetupForm
      button="Listen to this feed"
      ready={address.trim() !== ''}
      create={create}
      input={() => ({ kind: 'content-feed', address, everyMinutes })}
    >
      <Line
        label="Address of the feed"
        value={address}
        placeholder="https://podcast.wrenfield.example/feed.rss"
        maxLength={2000}
        onChange={setAddress}
        note="What is in it now counts as known; only new entries come in."
      />
      <EveryChoice value={everyMinutes} onChange={setEvery} />
    </SetupForm>
  );
}
