import { useState } from 'react';
import type { RehearsalShown, RehearsedLead } from '../../app/workflows/rehearse.ts';
import { call } from '../../client/call.ts';
import { useAction } from '../../client/use-action.ts';

export interface DoingsInput {
  workflowId: string;
  arrivalId: string | null;
  values: Record<string, string>;
  /** Saves what has been typed. */
  flush: () => Promise<void>;
  /** Which revision of the draft stands stored. */
  revision: () => number;
  refresh: () => Promise<void>;
  onRehearsed: (shown: RehearsalShown) => void;
}

/** What the bar above a sheet does with it on the server: rehearsing, putting live, pausing, sending one to oneself. */
export function useDoings({ workflowId, arrivalId, values, flush, revision, refresh, onRehearsed }: DoingsInput) {
  const { act, busy, told, tell, forget } = useAction();
  const [rehearsal, setRehearsal] = useState<(RehearsalShown & { happens: boolean }) | null>(null);
  const [last, setLast] = useState<RehearsedLead[] | null>(null);
  const api = `/api/workflows/${workflowId}` as const;

  const doing = async (work: () => Promise<string>) => {
    await act(
      async () => {
        await flush();
        return work();
      },
      (words) => words,
    );
    await refresh().catch(() => {});
  };
  return {
    told,
    busy,
    tell,
    forget,
    rehearsal,
    setRehearsal,
    last,
    setLast,
    rehearse: (happens: boolean) =>
      doing(async () => {
        const shown = await call('POST', `${api}/rehearse`, { arrivalId, happens, values });
        setRehearsal({ ...shown, happens });
        onRehearsed(shown);
        return `Rehearsed with ${shown.name}: each step shows what it would do. Nothing has left the building.`;
      }),
    rehearseLast: () =>
      doing(async () => {
        setLast(await call('POST', `${api}/rehearse-last`));
        return 'Rehearsed with the last leads. Nothing has left the building.';
      }),
    putLive: (moveOn: boolean) =>
      doing(async () => {
        const { version, moved, atOnce } = await call('POST', `${api}/live`, { revision: revision(), moveOn });
        const going = moved > 0 ? ` ${moved} under way ${moved === 1 ? 'goes' : 'go'} on with it.` : '';
        return `Version ${version} is live. The next lead goes through it.${going}${atOnce ? ' Whoever comes in by their own doing is answered at once, whatever the hour; the rules say otherwise if you want.' : ''}`;
      }),
    pause: (paused: boolean) =>
      doing(async () => {
        await call('PUT', `${api}/live`, { paused });
        return paused ? 'Paused. Nothing new starts; leads under way go on.' : 'Live again.';
      }),
    sendToMe: async (stepId: string) => {
      await flush();
      const sent = await call('POST', `${api}/send-to-me`, { stepId, arrivalId });
      await refresh().catch(() => {});
      return sent;
    },
  };
}

export type Doings = ReturnType<typeof useDoings>;
