import { adFormAnswer } from './ad-form-answer.ts';
import { adToDeal } from './ad-to-deal.ts';
import { booking } from './booking.ts';
import { chatDesk } from './chat-desk.ts';
import { customerWelcome } from './customer-welcome.ts';
import { formAnswer } from './form-answer.ts';
import { funnelOptIn } from './funnel-opt-in.ts';
import { mailEnquiry } from './mail-enquiry.ts';
import { missedCall } from './missed-call.ts';
import { newEpisode } from './new-episode.ts';
import { openDay } from './open-day.ts';
import { orderStatus } from './order-status.ts';
import type { Starter } from './pack.ts';
import { rowEmail } from './row-email.ts';
import { rowsToList } from './rows-to-list.ts';
import { winBack } from './win-back.ts';

/** Finished workflows to take and adapt, in the order they are shown. A new one is one file and one line here. */
export const starters: readonly Starter[] = [
  formAnswer,
  openDay,
  adFormAnswer,
  adToDeal,
  funnelOptIn,
  missedCall,
  mailEnquiry,
  booking,
  chatDesk,
  orderStatus,
  customerWelcome,
  rowEmail,
  rowsToList,
  newEpisode,
  winBack,
];
