import { Description } from '../description.ts';
import type { DescribedKind } from '../works.ts';
import { adPlatform } from './ad-platform.ts';
import { bookingCalendar } from './booking-calendar.ts';
import { chatNetwork } from './chat-network.ts';
import { companyDirectory } from './company-directory.ts';
import { funnelHost } from './funnel-host.ts';
import { shop } from './shop.ts';
import { textCarrier } from './text-carrier.ts';

/** By kind of service, the description that ships with Pine Bell: how it is spoken to where the business says nothing else. */
export const SHIPPED: Record<Exclude<DescribedKind, 'service'>, Description> = {
  text_carrier: Description.parse(textCarrier),
  chat_network: Description.parse(chatNetwork),
  company_directory: Description.parse(companyDirectory),
  booking_calendar: Description.parse(bookingCalendar),
  shop: Description.parse(shop),
  funnel_host: Description.parse(funnelHost),
  ad_platform: Description.parse(adPlatform),
};

export const shippedFor = (kind: DescribedKind): Description | null => (kind === 'service' ? null : SHIPPED[kind]);
