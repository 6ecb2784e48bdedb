import { EventEmitter } from 'node:events';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { type AdForm, type CarrierRecord, NO_TROUBLE, type Phone, type WorldState } from './world-state.ts';

const KEPT = 3000;

/** All that the practice desk remembers, in memory and in one file. Emits `change`. */
export class World extends EventEmitter {
  state: WorldState;
  private readonly byKey = new Map<string, CarrierRecord>();
  private saving: NodeJS.Timeout | null = null;

  constructor(
    private readonly file: string | null,
    forms: AdForm[],
    past: Pick<WorldState, 'entries' | 'episodes'>,
  ) {
    super();
    const empty: WorldState = {
      phones: {},
      chats: {},
      carrier: [],
      mails: [],
      forms,
      subscriptions: [],
      entries: past.entries,
      pushes: [],
      customers: [],
      orders: [],
      appointments: [],
      episodes: past.episodes,
      adsHoldDays: 90,
      chatTemplates: [],
      chatForms: [],
      pushDevices: [],
      trouble: NO_TROUBLE,
      trickle: true,
      reportSecret: null,
      chatAccount: null,
    };
    this.state = file && existsSync(file) ? { ...empty, ...JSON.parse(readFileSync(file, 'utf8')) } : empty;
    this.state.trouble = { ...NO_TROUBLE, ...this.state.trouble };
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

  chat(number: string): Phone {
    this.state.chats[number] ??= { number, messages: [] };
    return this.state.chats[number];
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
