import { useState } from 'react';
import { Area, Line } from '../../components/fields.tsx';
import { clock, type DeskState, post } from './desk-api.ts';

/** The school's podcast: publish an episode, and see the feed as others read it. */
export function Podcast({ desk }: { desk: DeskState }) {
  const [title, setTitle] = useState('Tuning by ear');
  const [summary, setSummary] = useState('How to hear when a string is right.');
  return (
    <>
      <h2 className="text-lg">The Wrenfield Hour</h2>
      <p className="mb-3 text-note text-ink-2">
        A podcast, as{' '}
        <a className="link" href="/feed/podcast.rss">
          RSS 2.0
        </a>{' '}
        and as{' '}
        <a className="link" href="/feed/podcast.atom">
          Atom
        </a>
        . Whoever reads it asks every few minutes.
      </p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void post('/episodes', { title, summary });
        }}
      >
        <Line label="Title" block="mb-2 block" value={title} maxLength={2000} onChange={setTitle} />
        <Area label="What it is about" value={summary} rows={2} onChange={setSummary} />
        <button className="btn btn-primary" type="submit">
          Publish the episode
        </button>
      </form>
      <ul className="mt-3">
        {[...desk.episodes]
          .reverse()
          .slice(0, 8)
          .map((episode) => (
            <li key={episode.id} className="flex gap-3 border-b border-base-300 py-1.5">
              <time className="text-ink-2">
                {new Date(episode.at).toLocaleDateString('en-GB')} {clock(episode.at)}
              </time>
              <span className="font-semibold">{episode.title}</span>
            </li>
          ))}
      </ul>
    </>
  );
}
