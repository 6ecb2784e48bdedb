import type { ComponentType } from 'react';
import AdFormForm from './ad-form/form.tsx';
import AdFormPanel from './ad-form/panel.tsx';
import CalendarForm from './booking-calendar/form.tsx';
import CalendarPanel from './booking-calendar/panel.tsx';
import ChatMessageForm from './chat-message/form.tsx';
import ChatMessagePanel from './chat-message/panel.tsx';
import FeedForm from './content-feed/form.tsx';
import FeedPanel from './content-feed/panel.tsx';
import DatabaseForm from './database/form.tsx';
import DatabasePanel from './database/panel.tsx';
import FormPageBuilder from './form-page/builder.tsx';
import FormPageForm from './form-page/form.tsx';
import FormPagePanel from './form-page/panel.tsx';
import FunnelForm from './funnel/form.tsx';
import FunnelPanel from './funnel/panel.tsx';
import ImportForm from './import/form.tsx';
import ImportPanel from './import/panel.tsx';
import ImportTab from './import/tab.tsx';
import MailAccountForm from './mail-account/form.tsx';
import MailAccountPanel from './mail-account/panel.tsx';
import MailboxForm from './mailbox/form.tsx';
import MailboxPanel from './mailbox/panel.tsx';
import ServiceSourceForm from './service/form.tsx';
import ServiceSourcePanel from './service/panel.tsx';
import SheetForm from './sheet/form.tsx';
import SheetPanel from './sheet/panel.tsx';
import ShopForm from './shop/form.tsx';
import ShopPanel from './shop/panel.tsx';
import type { SourceFormProps, SourcePanelProps } from './source-form.ts';
import WebhookForm from './webhook/form.tsx';
import WebhookPanel from './webhook/panel.tsx';
import WorkbookForm from './workbook/form.tsx';
import WorkbookPanel from './workbook/panel.tsx';

interface SourceScreens {
  /** Says exactly what to listen to. */
  form: ComponentType<SourceFormProps>;
  /** What the kind adds to the source's page. */
  panel: ComponentType<SourcePanelProps>;
  /** What needs the whole width, behind a tab of its own. */
  tab?: { name: string; content: ComponentType<SourcePanelProps>; first?: boolean };
}

/** The screens of each kind of source. A new kind is one line here beside its line in registry.ts. */
export const sourceScreens: Record<string, SourceScreens> = {
  'ad-form': { form: AdFormForm, panel: AdFormPanel },
  'form-page': { form: FormPageForm, panel: FormPagePanel, tab: { name: 'Build the page', content: FormPageBuilder } },
  funnel: { form: FunnelForm, panel: FunnelPanel },
  sheet: { form: SheetForm, panel: SheetPanel },
  workbook: { form: WorkbookForm, panel: WorkbookPanel },
  shop: { form: ShopForm, panel: ShopPanel },
  'booking-calendar': { form: CalendarForm, panel: CalendarPanel },
  import: { form: ImportForm, panel: ImportPanel, tab: { name: 'The import', content: ImportTab, first: true } },
  'chat-message': { form: ChatMessageForm, panel: ChatMessagePanel },
  mailbox: { form: MailboxForm, panel: MailboxPanel },
  'mail-account': { form: MailAccountForm, panel: MailAccountPanel },
  database: { form: DatabaseForm, panel: DatabasePanel },
  service: { form: ServiceSourceForm, panel: ServiceSourcePanel },
  webhook: { form: WebhookForm, panel: WebhookPanel },
  'content-feed': { form: FeedForm, panel: FeedPanel },
};
