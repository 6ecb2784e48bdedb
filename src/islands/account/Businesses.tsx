import { useState } from 'react';
import type { MyBusiness } from '../../app/account/businesses.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { ROLE_WORDS } from '../../core/people/rights.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';

/** Every business somebody belongs to: how it is doing, and the way in. */
export default function Businesses({
  first,
  place,
  now: at,
  begins,
  ...choices
}: {
  first: MyBusiness[];
  place: Place;
  now: number;
  /** Whether they may begin another. */
  begins: boolean;
  countries: { code: string; name: string }[];
  zones: string[];
  country: string;
  timeZone: string;
}) {
  const {
    value: all,
    at: now,
    again,
  } = useQuery(['businesses'], () => call('GET', '/api/businesses'), {
    first,
    at,
    live: false,
  });
  const { act, busy, told } = useAction();
  const here = all.filter(({ removed }) => removed === null);
  const removed = all.filter((one) => one.removed !== null);
  return (
    <>
      <Notice told={told} className="mb-3" />
      {here.length === 0 && (
        <p className="sheet-card mb-4 p-6 text-center text-ink-2">You belong to no business just now.</p>
      )}
      <ul className="mb-4 grid grid-cols-[repeat(auto-fill,minmax(17rem,1fr))] gap-3">
        {here.map((one) => (
          <li key={one.key}>
            <Card business={one} />
          </li>
        ))}
      </ul>
      {removed.length > 0 && (
        <section className="mb-4" aria-label="Removed">
          <h2 className="mb-2 text-part">Removed</h2>
          {removed.map(({ key, name, role, removed }) => (
            <p key={key} className="sheet-card mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 py-2.5 pr-3 pl-4">
              <span className="font-semibold">{name}</span>
              <span className="grow text-note text-ink-2">
                removed {whenWords(removed!.at, now, place)}, gone for good {whenWords(removed!.until, now, place)}
              </span>
              {role === 'owner' ? (
                <button
                  type="button"
                  className="btn btn-plain btn-xs"
                  disabled={busy}
                  aria-label={`Put back ${name}`}
                  onClick={() =>
                    void act(async () => {
                      await call('POST', '/api/businesses/back', { key });
                      await again();
                    }, `${name} is back. Its workflows and sources are paused: look at them, and let go on what should.`)
                  }
                >
                  Put back
                </button>
              ) : (
                <span className="text-note">An owner can put it back.</span>
              )}
            </p>
          ))}
        </section>
      )}
      {begins && <Begin {...choices} />}
    </>
  );
}

function Card({ business }: { business: MyBusiness }) {
  const { key, name, color, role, bySignOn, leadsToday, needs, broken } = business;
  if (bySignOn)
    return (
      <div className="sheet-card h-full overflow-hidden">
        <p className="truncate bg-bar px-4 py-2.5 font-head text-part font-bold text-[#f4fbf6]" data-business={color}>
          {name}
        </p>
        <p className="px-4 py-3 text-note text-ink-2">
          Its people come in by its own sign-in. Sign out, and in again with “Sign in with your business”.
        </p>
      </div>
    );
  return (
    <a href={`/at/${key}/`} className="sheet-card block h-full overflow-hidden hover:shadow-md">
      <p className="truncate bg-bar px-4 py-2.5 font-head text-part font-bold text-[#f4fbf6]" data-business={color}>
        {name}
      </p>
      <div className="px-4 py-3">
        <p>
          <span className="font-head text-2xl font-bold">{leadsToday}</span>{' '}
          {leadsToday === 1 ? 'lead today' : 'leads today'}
        </p>
        {needs !== null && (
          <p className={needs > 0 ? 'font-semibold text-warning' : 'text-ink-2'}>
            {needs === 0
              ? 'Nothing needs you'
              : needs === 1
                ? '1 thing needs somebody'
                : `${needs} things need somebody`}
          </p>
        )}
        {broken.length > 0 && (
          <p className="text-error">
            {broken.length === 1 ? `“${broken[0]}” does not answer` : `${broken.length} sources do not answer`}
          </p>
        )}
        <p className="mt-1 text-note text-ink-2">You are {ROLE_WORDS[role].name.toLowerCase()} here</p>
      </div>
    </a>
  );
}

function Begin({
  countries,
  zones,
  country: likely,
  timeZone: near,
}: {
  countries: { code: string; name: string }[];
  zones: string[];
  country: string;
  timeZone: string;
}) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState('');
  const [country, setCountry] = useState(likely);
  const [timeZone, setTimeZone] = useState(near);
  const { act, busy, told } = useAction();
  if (!open)
    return (
      <button type="button" className="btn btn-plain btn-sm" onClick={() => setOpen(true)}>
        Begin another business
      </button>
    );
  return (
    <form
      className="sheet-card max-w-md p-4"
      aria-label="Begin another business"
      onSubmit={(event) => {
        event.preventDefault();
        void act(async () => {
          const { key } = await call('POST', '/api/businesses', { name, country, timeZone });
          location.assign(`/at/${key}/begin`);
        });
      }}
    >
      <h2 className="mb-2 text-part">Begin another business</h2>
      <Line label="Name of the business" value={name} onChange={setName} />
      <Choice
        label="Country of most phone numbers"
        value={country}
        options={countries.map(({ code, name }) => [code, name] as const)}
        onChange={setCountry}
      />
      <Choice
        label="Time zone"
        value={timeZone}
        options={zones.map((zone) => [zone, zone] as const)}
        onChange={setTimeZone}
      />
      <Notice told={told} className="mb-3" />
      <button type="submit" className="btn btn-primary btn-sm" disabled={busy || name.trim() === ''}>
        Begin it
      </button>
    </form>
  );
}
