import { keepPreviousData, QueryClient, useQuery as useTanStackQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { messageOf } from './call.ts';
import { useLive } from './use-live.ts';

const make = () =>
  new QueryClient({
    defaultOptions: {
      // The bell says when to ask again; what failed is shown, and asked again with the next ring.
      queries: {
        ...{ retry: false, refetchOnMount: false, refetchOnWindowFocus: false, refetchOnReconnect: false },
        // Also where there is no network but this machine's own: whether Pine Bell answers is found by asking it.
        networkMode: 'always',
        gcTime: 60_000,
      },
    },
  });
/** One for the page in a browser. A server renders for many people: there each view has its own, or one would be shown another's. */
const ofPage = typeof window === 'undefined' ? null : make();

export interface Asked<T> {
  /** What was answered last; while another question is under way, the answer to the one before. */
  value: T;
  /** When that was, milliseconds. */
  at: number;
  /** Why the last question was not answered, in words; "" when it was. */
  problem: string;
  again(): Promise<void>;
  /** Puts in what an action has answered. */
  put(value: T): void;
}

/**
 * Something of the server's, as it is now: asked when the question becomes another, and with every ring of this business when `live`. An answer to a
 * question that is asked no more is dropped. `first` is what the page came with, null when it came with nothing; `at` (milliseconds) when that was.
 */
export function useQuery<T>(
  key: readonly (string | number | boolean | null)[],
  ask: (signal: AbortSignal) => Promise<T>,
  { first, at, live = true }: { first: T; at: number; live?: boolean },
): Asked<T> {
  const [client] = useState(() => ofPage ?? make());
  const [firstKey] = useState(() => key.join('\n'));
  const query = useTanStackQuery(
    {
      queryKey: key,
      queryFn: ({ signal }) => ask(signal),
      placeholderData: keepPreviousData,
      ...(first !== null && key.join('\n') === firstKey ? { initialData: first, initialDataUpdatedAt: at } : {}),
    },
    client,
  );
  const again = async () => {
    await query.refetch();
  };
  useLive(again, live);
  return {
    value: (query.data ?? first) as T,
    at: query.dataUpdatedAt || at,
    problem: query.error ? messageOf(query.error) : '',
    again,
    put: (value) => {
      // An answer under way knows nothing of it yet.
      void client.cancelQueries({ queryKey: key, exact: true });
      client.setQueryData(key, value);
    },
  };
}
