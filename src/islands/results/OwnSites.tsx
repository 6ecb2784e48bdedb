import { useState } from 'react';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { Line, Tick } from '../../components/fields.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { countWords } from './figures.ts';

/** A line on the business's own pages, by which earlier visits are put with the person once they fill in a form. */
export function OwnSites({ changes, place, now }: { changes: boolean; place: Place; now: number }) {
  const { value: sites, again } = useQuery(['own-sites'], () => call('GET', '/api/results/sites'), {
    ...{ first: null, at: now },
  });
  const [name, setName] = useState('');
  const [asks, setAsks] = useState(true);
  const { act, busy, told } = useAction();
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">Visits of your own pages</h2>
      <p className="mb-3 text-ink-2">
        People come by several links before they write. With this on your pages, the earlier ones are put with them once
        they fill in a form. No cookie, nothing of who they are; nothing at all for who asks not to be followed.
      </p>
      <ToldLine told={told} />
      <ul className="mb-3 grid gap-3">
        {(sites ?? []).map((site) => (
          <li key={site.id} className="rounded-lg border border-base-300 p-3">
            <div className="mb-1 flex items-baseline justify-between gap-2">
              <b>{site.name}</b>
              {changes && (
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  disabled={busy}
                  aria-label={`Remove ${site.name}`}
                  onClick={() =>
                    void act(async () => {
                      await call('DELETE', `/api/results/sites/${site.id}`);
                      await again();
                    }, `${site.name} tells nothing any more. Take the line off its pages.`)
                  }
                >
                  Remove
                </button>
              )}
            </div>
            <CopyLine text={site.code} what="Line for your pages" />
            <p className="text-note text-ink-2">
              {site.seenAt
                ? `${countWords(site.visits, place.locale)} visits in 28 days, the last ${whenWords(site.seenAt, now, place)}.`
                : 'Nothing has come yet: put the line above into the head of every page.'}{' '}
              {site.asks &&
                'It waits until your page says that somebody agrees: pineBell.agree(), or pineBell.refuse().'}
            </p>
          </li>
        ))}
      </ul>
      {changes && (
        <details>
          <summary className="cursor-pointer text-note">Add a site</summary>
          <div className="mt-2">
            <Line
              label="Which site"
              value={name}
              maxLength={100}
              placeholder="www.wrenfield.example"
              small
              onChange={setName}
            />
            <Tick
              label="Ask first"
              value={asks}
              onChange={setAsks}
              note="Nothing is counted before your page says that they agree. Leave it on where the law asks for that."
            />
            <button
              type="button"
              className="btn btn-plain btn-sm"
              disabled={busy || name.trim() === ''}
              onClick={() =>
                void act(async () => {
                  await call('POST', '/api/results/sites', { name, asks });
                  setName('');
                  await again();
                })
              }
            >
              Add it
            </button>
          </div>
        </details>
      )}
    </section>
  );
}
