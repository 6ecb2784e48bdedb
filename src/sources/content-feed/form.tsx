import { useState } from 'react';
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
      <label className="mb-3 block">
        <span className="field-label">Address of the feed</span>
        <input
          className="input"
          value={address}
          placeholder="https://podcast.wrenfield.example/feed.rss"
          onChange={(event) => setAddress(event.target.value)}
        />
        <span className="block text-note text-ink-2">What is in it now counts as known; only new entries come in.</span>
      </label>
      <EveryChoice value={everyMinutes} onChange={setEvery} />
    </SetupForm>
  );
}
