import ArrowLeft from 'lucide-react/icons/arrow-left';
import AudioLines from 'lucide-react/icons/audio-lines';
import BellRing from 'lucide-react/icons/bell-ring';
import CalendarDays from 'lucide-react/icons/calendar-days';
import Filter from 'lucide-react/icons/filter';
import Mail from 'lucide-react/icons/mail';
import Megaphone from 'lucide-react/icons/megaphone';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import MessagesSquare from 'lucide-react/icons/messages-square';
import ShoppingBag from 'lucide-react/icons/shopping-bag';
import Smartphone from 'lucide-react/icons/smartphone';
import { useState } from 'react';
import { AdForms } from './AdForms.tsx';
import { Calendars } from './Calendars.tsx';
import { CarrierDesk } from './CarrierDesk.tsx';
import { ChatDesk } from './ChatDesk.tsx';
import { ChatTemplates } from './ChatTemplates.tsx';
import { post, useDesk } from './desk-api.ts';
import { FunnelPages } from './FunnelPages.tsx';
import { Mailboxes, MailboxList } from './Mailboxes.tsx';
import { MakeTrouble, troubleNames } from './MakeTrouble.tsx';
import { Notices } from './Notices.tsx';
import { PhoneView } from './PhoneView.tsx';
import { Podcast } from './Podcast.tsx';
import { ShopCounter } from './ShopCounter.tsx';
import { WriteMail } from './WriteMail.tsx';

const SERVICES = [
  { id: 'ads', name: 'Ad platform', icon: Megaphone },
  { id: 'funnels', name: 'Funnel pages', icon: Filter },
  { id: 'shop', name: 'Shop', icon: ShoppingBag },
  { id: 'calendar', name: 'Calendars', icon: CalendarDays },
  { id: 'feed', name: 'Podcast', icon: AudioLines },
  { id: 'carrier', name: 'Text carrier', icon: MessageSquareText },
  { id: 'chat', name: 'Chat network', icon: MessagesSquare },
  { id: 'mail', name: 'Mailboxes', icon: Mail },
  { id: 'push', name: 'Notices', icon: BellRing },
] as const;
type Service = (typeof SERVICES)[number]['id'];

/** The made-up outside world on one page: forms to fill in, phones and mailboxes to look at, trouble to make. */
export function DeskPage() {
  const desk = useDesk();
  const [service, setService] = useState<Service>('ads');
  const [number, setNumber] = useState<string | null>(null);
  const [mailbox, setMailbox] = useState<string | null>(null);
  if (!desk) return <p className="p-6">Opening the practice desk …</p>;
  const newest = (times: Record<string, string>) =>
    Object.entries(times).sort((a, b) => b[1].localeCompare(a[1]))[0]?.[0] ?? null;
  const shownNumber =
    number ??
    newest(
      Object.fromEntries(
        [...Object.values(desk.phones), ...Object.values(desk.chats)]
          .map((phone) => [phone.number, phone.messages.at(-1)?.at ?? ''] as const)
          .sort((a, b) => a[1].localeCompare(b[1])),
      ),
    );
  const shownMailbox =
    mailbox ??
    desk.mails.filter((mail) => !mail.mailbox.endsWith('@wrenfield.example')).at(-1)?.mailbox ??
    desk.mails.at(-1)?.mailbox ??
    null;
  const show = (phone: string | null, email: string | null) => {
    setNumber(phone);
    setMailbox(email);
  };
  const troubles = troubleNames(desk.trouble);
  return (
    <div className="flex min-h-screen flex-col">
      <header className="desk-bar flex h-12 items-center gap-3 px-4">
        <Smartphone className="size-5" aria-hidden="true" />
        <h1 className="text-lg">Practice desk</h1>
        <p className="text-note opacity-85">A made-up outside world. Nothing here reaches a real person.</p>
        {desk.trickle !== null && (
          <label className="ml-auto flex cursor-pointer items-center gap-2 text-note">
            <input
              type="checkbox"
              className="toggle toggle-sm"
              checked={desk.trickle}
              onChange={(event) => void post('/trickle', { on: event.target.checked })}
            />
            People come in by themselves
          </label>
        )}
        <a className="ml-auto flex items-center gap-2 font-medium hover:underline" href={desk.backTo}>
          <ArrowLeft className="size-4" aria-hidden="true" />
          Back to Pine Bell
        </a>
      </header>
      <div className="grid grow grid-cols-[180px_minmax(360px,1fr)_300px_300px] gap-3 p-3">
        <nav aria-label="Services">
          {SERVICES.map(({ id, name, icon: Icon }) => (
            <button
              key={id}
              type="button"
              aria-pressed={service === id}
              onClick={() => setService(id)}
              className={`mb-1 flex w-full items-center gap-2.5 rounded-lg px-3 py-2 text-left font-medium ${service === id ? 'bg-base-100' : 'hover:bg-base-100/60'}`}
            >
              <Icon className="size-4" aria-hidden="true" />
              {name}
              {troubles[id] && <span className="pill warn ml-auto">{troubles[id]}</span>}
            </button>
          ))}
        </nav>
        <main className="sheet-card min-w-0 p-4">
          {service === 'ads' && <AdForms desk={desk} onSent={show} />}
          {service === 'funnels' && <FunnelPages desk={desk} onSent={show} />}
          {service === 'shop' && <ShopCounter desk={desk} onSent={show} />}
          {service === 'calendar' && <Calendars desk={desk} onSent={show} />}
          {service === 'feed' && <Podcast desk={desk} />}
          {service === 'mail' && desk.writesMail && <WriteMail />}
          {service === 'carrier' && <CarrierDesk desk={desk} chosen={shownNumber} onChoose={setNumber} />}
          {service === 'chat' && (
            <>
              <ChatDesk desk={desk} chosen={shownNumber} onChoose={setNumber} />
              <h3 className="mt-5 mb-2 text-part">Templates, and their review</h3>
              <ChatTemplates desk={desk} />
            </>
          )}
          {service === 'push' && <Notices desk={desk} />}
          {service === 'mail' && <Mailboxes desk={desk} chosen={shownMailbox} onChoose={setMailbox} />}
        </main>
        <PhoneView desk={desk} number={shownNumber} />
        <aside className="sheet-card p-4">
          <MailboxList desk={desk} mailbox={shownMailbox} onOpen={() => setService('mail')} />
          <MakeTrouble trouble={desk.trouble} number={shownNumber} mailbox={shownMailbox} />
        </aside>
      </div>
    </div>
  );
}
