import type { SourceKind } from '../core/source/source-kind.ts';
import { adForm } from './ad-form/definition.ts';
import { adFormPuller, adFormSetup } from './ad-form/setup.ts';
import { bookingCalendar } from './booking-calendar/definition.ts';
import { calendarSetup } from './booking-calendar/setup.ts';
import { chatMessage } from './chat-message/definition.ts';
import { chatMessageSetup } from './chat-message/setup.ts';
import { contentFeed } from './content-feed/definition.ts';
import { feedPuller, feedSetup } from './content-feed/setup.ts';
import { databaseSource } from './database/definition.ts';
import { databasePuller, databaseSetup } from './database/setup.ts';
import { formPage } from './form-page/definition.ts';
import { formPageSetup } from './form-page/setup.ts';
import { funnel } from './funnel/definition.ts';
import { funnelSetup } from './funnel/setup.ts';
import { leadImport } from './import/definition.ts';
import { importSetup } from './import/setup.ts';
import { listSource } from './list/definition.ts';
import { listSetup } from './list/setup.ts';
import { mailAccount } from './mail-account/definition.ts';
import { mailAccountPuller, mailAccountSetup } from './mail-account/setup.ts';
import { mailbox } from './mailbox/definition.ts';
import { mailboxSetup } from './mailbox/setup.ts';
import { serviceSource } from './service/definition.ts';
import { servicePuller, serviceSetup } from './service/setup.ts';
import { sheet } from './sheet/definition.ts';
import { sheetPuller, sheetSetup } from './sheet/setup.ts';
import { shop } from './shop/definition.ts';
import { shopSetup } from './shop/setup.ts';
import type { AnySourceModule } from './source-module.ts';
import { webhook } from './webhook/definition.ts';
import { webhookSetup } from './webhook/setup.ts';
import { workbook } from './workbook/definition.ts';
import { workbookPuller, workbookSetup } from './workbook/setup.ts';

const modules: AnySourceModule[] = [
  { definition: adForm, setup: adFormSetup, puller: adFormPuller },
  { definition: formPage, setup: formPageSetup },
  { definition: funnel, setup: funnelSetup },
  { definition: sheet, setup: sheetSetup, puller: sheetPuller },
  { definition: workbook, setup: workbookSetup, puller: workbookPuller },
  { definition: shop, setup: shopSetup },
  { definition: bookingCalendar, setup: calendarSetup },
  { definition: chatMessage, setup: chatMessageSetup },
  { definition: mailbox, setup: mailboxSetup },
  { definition: mailAccount, setup: mailAccountSetup, puller: mailAccountPuller },
  { definition: databaseSource, setup: databaseSetup, puller: databasePuller },
  { definition: serviceSource, setup: serviceSetup, puller: servicePuller },
  { definition: webhook, setup: webhookSetup },
  { definition: leadImport, setup: importSetup },
  { definition: listSource, setup: listSetup },
  { definition: contentFeed, setup: feedSetup, puller: feedPuller },
];

/** Every kind of lead source, by its name. A new kind is one folder, one line here and one in forms.ts. */
export const sourceModules: ReadonlyMap<string, AnySourceModule> = new Map(
  modules.map((module) => [module.definition.kind, module]),
);

export const sourceKinds: ReadonlyMap<string, SourceKind> = new Map(
  modules.map(({ definition }) => [definition.kind, definition as SourceKind]),
);
