import type { ORDER_STATES } from './order-states.ts';

/** A text or a reply on a practice phone. */
export interface PhoneMessage {
  id: string;
  at: string;
  direction: 'to_phone' | 'from_phone';
  text: string;
  /** The other side: the business's sender. */
  with: string;
  /** What can be tapped for an answer. */
  buttons?: string[];
  /** A form that can be opened, with the token it brings back; and once it was sent, what was answered. */
  form?: { id: string; token: string; sent?: boolean };
}

/** A form at the chat network: its screens, and what a person agrees to by ticking. */
export interface NetworkForm {
  id: string;
  name: string;
  heading: string;
  /** On the button that opens it. */
  open: string;
  thanks: string;
  screens: {
    title: string;
    fields: {
      key: string;
      label: string;
      kind: 'short' | 'email' | 'phone' | 'choice' | 'date' | 'tick';
      required: boolean;
      help: string;
      choices: string[];
    }[];
  }[];
  consent: { text: string; required: boolean } | null;
}

/** A template at the chat network. */
export interface NetworkTemplate {
  id: string;
  name: string;
  kind: 'promotion' | 'service';
  heading: string;
  text: string;
  closing: string;
  buttons: string[];
  /** Messages of it open a form. */
  form: boolean;
  samples: Record<string, string>;
  state: 'waiting' | 'approved' | 'refused' | 'withdrawn';
  reason: string;
  at: string;
}

export interface Phone {
  number: string;
  messages: PhoneMessage[];
}

/** What the carrier keeps of every text it was given, by idempotency key. */
export interface CarrierRecord {
  key: string;
  id: string;
  at: string;
  to: string;
  text: string;
  /** How often the same key came again; the text went out once. */
  repeats: number;
  status: number;
  reply: Record<string, unknown>;
}

export interface Mail {
  id: string;
  at: string;
  mailbox: string;
  /** The SMTP reverse-path: where reports about it go. */
  returnPath?: string;
  from: string;
  subject: string;
  text: string;
  html: string;
  /** Absent in mail from before attachments were kept. */
  attachments?: { name: string; type: string; bytes: number }[];
  headers: { name: string; value: string }[];
}

export interface FormQuestion {
  key: string;
  label: string;
  kind: 'short' | 'email' | 'phone' | 'choice' | 'tick';
  choices?: string[];
}

export interface AdForm {
  id: string;
  name: string;
  /** Which of the platform's accounts it belongs to. */
  account: 'school' | 'adults';
  page: { id: string; name: string };
  live: boolean;
  /** Campaign, ad set and ad it is shown with. */
  ad: { campaign: string; adSet: string; ad: string };
  hidden: Record<string, string>;
  questions: FormQuestion[];
}

export type ServiceName = 'ads' | 'funnels' | 'shop' | 'calendar';

export interface Subscription {
  id: string;
  service: ServiceName;
  /** What of the service: "form:ID", "page:ID", "step:ID", "calendar:ID", or "" for all. */
  topic: string;
  /** Which events; null for every one. */
  events: string[] | null;
  url: string;
  secret: string;
}

export interface FormEntry {
  id: string;
  formId: string;
  at: string;
  answers: Record<string, string>;
}

/** One attempt to push something to a subscriber. */
export interface Push {
  id: string;
  service: ServiceName;
  /** What it was about, as the page shows it. */
  subject: string;
  topic: string;
  event: string;
  eventId: string;
  value: unknown;
  subscriptionId: string;
  who: string;
  at: string;
  ms: number;
  status: number | null;
  answer: string;
}

export interface Trouble {
  carrierSlow: boolean;
  carrierBusy: boolean;
  carrierDown: boolean;
  carrierLosesReports: boolean;
  refusedNumbers: string[];
  mailGreylists: boolean;
  mailDown: boolean;
  mailFull: string[];
  adsDown: boolean;
  adsBusy: boolean;
  adsSendTwice: boolean;
  adsWrongSignature: boolean;
  funnelsDown: boolean;
  shopWrongSignature: boolean;
  shopSendsTwice: boolean;
  calendarSendsTwice: boolean;
  directoryDown: boolean;
  feedDown: boolean;
  feedBroken: boolean;
  feedHuge: boolean;
  /** It is away, and asks to be left alone for weeks. */
  feedAsksWeeks: boolean;
  chatDown: boolean;
  pushDown: boolean;
}

export interface ShopCustomer {
  id: string;
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  accepts_marketing: boolean;
}

export interface ShopOrder {
  id: string;
  number: number;
  status: (typeof ORDER_STATES)[number];
  currency: string;
  total: string;
  customerId: string;
  lines: { sku: string; name: string; quantity: number; price: string }[];
}

export interface Appointment {
  id: string;
  calendar: string;
  title: string;
  start: string;
  end: string;
  bookedBy: 'self' | 'staff';
  status: 'booked' | 'confirmed' | 'moved' | 'cancelled' | 'no-show';
  person: { name: string; email: string; phone: string };
}

export interface Episode {
  id: string;
  title: string;
  summary: string;
  at: string;
}

/** A device that takes notices, with its keys and what has come. */
export interface PushDevice {
  id: string;
  name: string;
  keys: { privateKey: string; publicKey: string; auth: string };
  notices: { at: string; title: string; body: string; url: string; tag: string }[];
}

export interface WorldState {
  phones: Record<string, Phone>;
  /** What is written in chat, by the phone's number. */
  chats: Record<string, Phone>;
  carrier: CarrierRecord[];
  mails: Mail[];
  forms: AdForm[];
  subscriptions: Subscription[];
  entries: FormEntry[];
  pushes: Push[];
  customers: ShopCustomer[];
  orders: ShopOrder[];
  appointments: Appointment[];
  episodes: Episode[];
  /** Days the ad platform holds an entry for who fetches it. */
  adsHoldDays: number;
  chatTemplates: NetworkTemplate[];
  chatForms: NetworkForm[];
  pushDevices: PushDevice[];
  trouble: Trouble;
  /** Whether made-up people come in by themselves, where the desk has such. */
  trickle: boolean;
  /** Signs the carrier's reports; set when the account is connected. */
  reportSecret: string | null;
  /** The account at the chat network: where it reports, signed with what, and the business's number. */
  chatAccount: { reportTo: string; secret: string; number: string } | null;
}

export const NO_TROUBLE: Trouble = {
  carrierSlow: false,
  carrierBusy: false,
  carrierDown: false,
  carrierLosesReports: false,
  refusedNumbers: [],
  mailGreylists: false,
  mailDown: false,
  mailFull: [],
  adsSendTwice: false,
  adsDown: false,
  adsBusy: false,
  adsWrongSignature: false,
  funnelsDown: false,
  shopWrongSignature: false,
  shopSendsTwice: false,
  calendarSendsTwice: false,
  directoryDown: false,
  feedDown: false,
  feedBroken: false,
  feedHuge: false,
  feedAsksWeeks: false,
  chatDown: false,
  pushDown: false,
};
