import type { AccessView } from '../../app/account/service-access.ts';
import { call } from '../../client/call.ts';
import { comeAnew, goAway } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';

interface Props {
  id: string;
  name: string;
  first: AccessView;
  /** Where the service's own page sends people back to. */
  backTo: string;
  place: Place;
  /** Milliseconds since 1970. */
  now: number;
}

/** What somebody has allowed us at a service on its own page: whether, since when, and the way there. */
export default function Access({ id, name, first: access, backTo, place, now }: Props) {
  const { act, busy, told } = useAction();
  const at = (iso: string) => whenWords(iso, now, place);
  const holds = access.allowedAt !== null && access.over === '';
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Access">
      <h2 className="mb-1 flex items-center gap-2 text-part">
        Access <span className={`pill ${holds ? 'good' : 'bad'}`}>{holds ? 'Allowed' : 'Not allowed'}</span>
      </h2>
      <p className="mb-3 max-w-prose text-ink-2">
        {access.allowedAt === null
          ? `${name} lets Pine Bell in once you have allowed it on its own page. You are sent there, and come back here.`
          : holds
            ? `Allowed by ${access.allowedBy ?? 'somebody who has left'} ${at(access.allowedAt)}, renewed by itself ${at(access.renewedAt!)}.`
            : `${access.over} What was to go by it is tried again for as long as its step says.`}
      </p>
      {access.allowedAt === null && (
        <>
          <p className="mb-1 text-note text-ink-2">
            The service wants to know beforehand where you come back to. Enter this address there:
          </p>
          <CopyLine text={backTo} what="Address to come back to" />
        </>
      )}
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className={`btn btn-sm ${holds ? 'btn-plain' : 'btn-primary'}`}
          disabled={busy}
          onClick={() => void act(async () => goAway((await call('POST', `/api/connections/${id}/access`)).address))}
        >
          {access.allowedAt === null ? 'Allow access' : 'Allow access anew'}
        </button>
        {access.allowedAt !== null && (
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            disabled={busy}
            onClick={() =>
              void act(async () => {
                await call('DELETE', `/api/connections/${id}/access`);
                await comeAnew();
              })
            }
          >
            Throw away what was allowed
          </button>
        )}
      </div>
      {access.allowedAt !== null && (
        <p className="mt-2 text-note text-ink-2">
          Thrown away here, it is still on the service's own list of who may come in: take it back there too.
        </p>
      )}
      <Notice told={told} className="mt-3" />
    </section>
  );
}
