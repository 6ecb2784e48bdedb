import { EventEmitter } from 'node:events';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** A text or a reply on a practice phone. */
export interface PhoneMessage {
  id: string;
  at: string;
  direction: 'to_phone' | 'from_phone';
  text: string;
  /** The other side: the business's sender. */
  with: string;
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
  from: string;
  subject: string;
  text: string;
  html: string;
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
  page: string;
  live: boolean;
  /** Campaign, ad set and ad it is shown with. */
  ad: { campaign: string; adSet: string; ad: string };
  hidden: Record<string, string>;
  questions: FormQuestion[];
}

export interface Subscription {
  id: string;
  formId: string;
  url: string;
  secret: string;
}

export interface FormEntry {
  id: string;
  formId: string;
  at: string;
  answers: Record<string, string>;
}

/** One attempt to push an entry to a subscriber. */
export interface Push {
  id: string;
  entryId: string;
  formId: string;
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
  adsSendTwice: boolean;
  adsWrongSignature: boolean;
}

export interface WorldState {
  phones: Record<string, Phone>;
  carrier: CarrierRecord[];
  mails: Mail[];
  forms: AdForm[];
  subscriptions: Subscription[];
  entries: FormEntry[];
  pushes: Push[];
  trouble: Trouble;
  /** Signs the carrier's reports; set when the account is connected. */
  reportSecret: string | null;
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
  adsWrongSignature: false,
};

const KEPT = 3000;

/** All that the practice desk remembers, in memory and in one file. Emits `change`. */
export class World extends EventEmitter {
  state: WorldState;
  private readonly byKey = new Map<string, CarrierRecord>();
  private saving: NodeJS.Timeout | null = null;

  constructor(
    private readonly file: string | null,
    forms: AdForm[],
  ) {
    super();
    const empty: WorldState = {
      phones: {},
      carrier: [],
      mails: [],
      forms,
      subscriptions: [],
      entries: [],
      pushes: [],
      trouble: NO_TROUBLE,
      reportSecret: null,
    };
    this.state = file && existsSync(file) ? { ...empty, ...JSON.parse(readFileSync(file, 'utf8')), forms } : empty;
    for (const record of this.state.carrier) this.byKey.set(record.key, record);
  }

  recordByKey(key: string): CarrierRecord | undefined {
    return this.byKey.get(key);
  }

  addRecord(record: CarrierRecord): void {
    this.byKey.set(record.key, record);
    this.state.carrier.push(record);
    this.changed();
  }

  phone(number: string): Phone {
    this.state.phones[number] ??= { number, messages: [] };
    return this.state.phones[number];
  }

  changed(): void {
    this.emit('change');
    // A moment later, so that a flow of texts is not a flow of files; what matters in tests is read over the network.
    this.saving ??= setTimeout(() => this.save(), 300);
  }

  save(): void {
    if (this.saving) clearTimeout(this.saving);
    this.saving = null;
    if (!this.file) return;
    const { state } = this;
    for (const list of [state.mails, state.entries, state.pushes, state.carrier])
      if (list.length > KEPT) list.splice(0, list.length - KEPT);
    mkdirSync(dirname(this.file), { recursive: true });
    writeFileSync(`${this.file}.new`, JSON.stringify(state));
    renameSync(`${this.file}.new`, this.file);
  }
}
