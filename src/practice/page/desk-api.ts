import { useEffect, useState } from 'react';
import type { Funnel } from '../funnel-host.ts';
import type {
  AdForm,
  Appointment,
  Episode,
  Mail,
  NetworkForm,
  NetworkTemplate,
  Phone,
  Push,
  PushDevice,
  ShopCustomer,
  ShopOrder,
  Trouble,
} from '../world-state.ts';

export type PushShown = Omit<Push, 'value'>;

/** What the page is told of the practice world. */
export interface DeskState {
  phones: Record<string, Phone>;
  chats: Record<string, Phone>;
  mails: Mail[];
  forms: AdForm[];
  pushes: PushShown[];
  customers: ShopCustomer[];
  orders: Omit<ShopOrder, 'customerId'>[];
  goods: { sku: string; name: string; price: number }[];
  calendars: { id: string; name: string }[];
  appointments: Appointment[];
  chatTemplates: NetworkTemplate[];
  chatForms: NetworkForm[];
  funnels: Funnel[];
  episodes: Episode[];
  adsHoldDays: number;
  /** Whether Pine Bell has a mail listener that mails can be written to. */
  writesMail: boolean;
  pushDevices: Omit<PushDevice, 'keys'>[];
  trouble: Trouble;
  /** Whether made-up people come in by themselves; null where there are none. */
  trickle: boolean | null;
  backTo: string;
}

export async function post<T = unknown>(path: string, body: unknown): Promise<T> {
  const answer = await fetch(`/api${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok)
    throw new Error(((await answer.json()) as { detail?: string }).detail ?? 'The practice desk did not take it.');
  return (await answer.json()) as T;
}

/** The state, kept up to date by server-sent events. */
export function useDesk(): DeskState | null {
  const [state, setState] = useState<DeskState | null>(null);
  useEffect(() => {
    const look = () =>
      fetch('/api/state')
        .then((answer) => answer.json())
        .then(setState, () => {});
    void look();
    const live = new EventSource('/api/live');
    live.onmessage = () => void look();
    return () => live.close();
  }, []);
  return state;
}

export const clock = (iso: string) =>
  new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit', second: '2-digit' });

/** What a list of phones is given: which is chosen, by number. */
export interface PhonesProps {
  desk: DeskState;
  chosen: string | null;
  onChoose: (number: string) => void;
}
