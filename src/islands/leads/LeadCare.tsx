import { useState } from 'react';
import type { MergePreview } from '../../app/leads/lead-care.ts';
import { call } from '../../client/call.ts';
import { comeAnew } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { Bare } from '../../components/fields.tsx';

interface Found {
  id: string;
  name: string;
  email: string;
  phone: string;
}

/** What is done with a lead as a whole: made one with another, given out, erased. */
export default function LeadCare({
  id,
  name,
  phone,
  merges,
  works,
  builds,
  erases,
}: {
  id: string;
  name: string;
  /** Empty when none is known. */
  phone: string;
  /** Merges that can be undone. */
  merges: { id: string; name: string }[];
  /** What the person at the screen may do: change what is known, make two leads one and take them out, erase. */
  works: boolean;
  builds: boolean;
  erases: boolean;
}) {
  const [search, setSearch] = useState('');
  const [found, setFound] = useState<Found[] | null>(null);
  const [preview, setPreview] = useState<MergePreview | null>(null);
  const [typed, setTyped] = useState('');
  const { act, told } = useAction();
  return (
    <section className="mt-6 border-t border-base-300 pt-3" aria-label="This lead as a whole">
      <Notice told={told} className="mb-2 text-note" />
      {(builds ? merges : []).map((merge) => (
        <p key={merge.id} className="mb-2 text-note">
          Made one with {merge.name}.{' '}
          <button
            type="button"
            className="link"
            onClick={() =>
              void act(async () => {
                await call('POST', `/api/merges/${merge.id}/undo`);
                await comeAnew();
              })
            }
          >
            Part them again
          </button>
        </p>
      ))}
      {builds && (
        <details>
          <summary className="cursor-pointer text-note text-ink-2">The same person as another lead?</summary>
          <form
            className="mt-2 flex gap-1"
            onSubmit={(event) => {
              event.preventDefault();
              void act(async () => {
                const { rows } = await call('GET', `/api/leads?search=${encodeURIComponent(search)}`);
                setFound(rows.filter((row) => row.id !== id).slice(0, 8));
                setPreview(null);
              });
            }}
          >
            <Bare
              label="Name, phone or email of the other"
              placeholder="Name, phone or email"
              value={search}
              onChange={setSearch}
            />
            <button type="submit" className="btn btn-plain btn-sm" disabled={search.trim() === ''}>
              Find
            </button>
          </form>
          {found?.length === 0 && <p className="mt-1 text-note text-ink-2">Nobody fits.</p>}
          {found?.map((found) => (
            <button
              key={found.id}
              type="button"
              className="mt-1 block w-full rounded px-2 py-1 text-left text-note hover:bg-base-200"
              onClick={() =>
                void act(async () => setPreview(await call('GET', `/api/leads/${id}/merge?with=${found.id}`)))
              }
            >
              <span className="font-semibold">{found.name}</span> {found.email} {found.phone}
            </button>
          ))}
          {preview && (
            <div className="mt-2 rounded-lg bg-base-200 p-2 text-note" data-testid="merge-preview">
              <p>
                {preview.gone.name} becomes part of {preview.kept.name}
                {preview.moves.length > 0 && `, with ${preview.moves.join(', ')}`}.
                {preview.fills.length > 0 && ` Filled in: ${preview.fills.join(', ')}.`}
              </p>
              <button
                type="button"
                className="btn btn-primary btn-xs mt-2"
                onClick={() =>
                  void act(async () => {
                    await call('POST', `/api/leads/${id}/merge`, { with: preview.gone.id });
                    await comeAnew();
                  })
                }
              >
                Make them one
              </button>
            </div>
          )}
        </details>
      )}
      {works && phone !== '' && (
        <details className="mt-2">
          <summary className="cursor-pointer text-note text-ink-2">Is {phone} no longer theirs?</summary>
          <p className="mt-1 text-note text-ink-2">
            The number is taken off them and nothing more goes to it on their account. Whoever writes from it from now
            on is somebody new.
          </p>
          <button
            type="button"
            className="btn btn-plain btn-xs mt-1"
            onClick={() =>
              void act(async () => {
                await call('POST', `/api/leads/${id}/release-number`);
                await comeAnew();
              })
            }
          >
            It has changed hands
          </button>
        </details>
      )}
      {builds && (
        <p className="mt-2 text-note">
          <a className="link" href={within(`/api/leads/${id}/export`)} download>
            Everything we know of them, as a file
          </a>
        </p>
      )}
      {erases && (
        <details className="mt-2">
          <summary className="cursor-pointer text-note text-error">Erase them</summary>
          <p className="mt-1 text-note text-ink-2">
            Everything of them goes for good, at once. What stays: that they were erased, and which consents there had
            been, without a name. Rows in sheets stay; take them out there. Type “{name}” to go on.
          </p>
          <div className="mt-1 flex gap-1">
            <Bare label="Their name, to erase them" placeholder="" value={typed} onChange={setTyped} />
            <button
              type="button"
              className="btn btn-sm btn-error"
              disabled={typed.trim() === ''}
              onClick={() =>
                void act(async () => {
                  await call('POST', `/api/leads/${id}/erase`, { name: typed });
                  location.assign(within('/leads'));
                })
              }
            >
              Erase
            </button>
          </div>
        </details>
      )}
    </section>
  );
}
