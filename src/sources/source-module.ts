import { z } from 'zod';
import type { LeadCard } from '../core/source/lead-card.ts';
import type { RawArrival, SourceKind } from '../core/source/source-kind.ts';
import type { DescribedAccount, DescribedCaller } from '../gateways/described/described-caller.ts';
import type { FilePlaceAccount, FilePlaces } from '../gateways/file-place.ts';
import type { HttpCaller } from '../gateways/http.ts';
import type { MailAccount, MailAccounts } from '../gateways/mail-account.ts';
import type { DatabaseAccount, OutsideDatabases } from '../gateways/outside-database.ts';
import type { TableReader } from '../tables/table-reader.ts';
import type { Feed } from './content-feed/feed.ts';

/** What a kind of source may use of the outside world and of our own storage. */
export interface SourcePorts {
  http: HttpCaller;
  /** Services by their descriptions, and a connection of the business as one; null when it is gone. */
  described: DescribedCaller;
  describedAccount(connectionId: string): Promise<DescribedAccount | null>;
  /** Databases of the business's own, and a connection as one; null when it is gone. */
  databases: OutsideDatabases;
  databaseAccount(connectionId: string): Promise<DatabaseAccount | null>;
  /** Mailboxes the business has already, and a connection as one. */
  mailboxes: MailAccounts;
  mailAccount(connectionId: string): Promise<{ ok: true; account: MailAccount } | Trouble>;
  /** Places files lie at, and a connection as one; null when it is gone. */
  places: FilePlaces;
  filePlace(connectionId: string): Promise<FilePlaceAccount | null>;
  businessName: string;
  /** Whether a connection of the business is there. */
  isConnected(connectionId: string): Promise<boolean>;
  now: number;
  /** Pine Bell's own sheets of this business. */
  sheets: SheetStore;
  /** Files handed in for this source. */
  files: FileStore;
  /** Forms that are filled in inside the chat. */
  chatForms(): Promise<{ id: string; name: string }[]>;
  tables: TableReader;
  /** Reads a feed, apart from what answers people. */
  feed(bytes: Uint8Array, address: string): Promise<Feed>;
  /** Which of these items have come in before; of this source. */
  seen(externalIds: string[]): Promise<Set<string>>;
}

/** A row that was changed. `number` counts from 1, as the grid shows it. */
export interface SheetChange {
  id: string;
  number: number;
  revision: number;
  position: number;
  cells: Record<string, string>;
}

/** How far changes have been read: a revision, and within it a row's position. */
export interface SheetPlace {
  revision: number;
  position: number;
}

export interface SheetStore {
  tabs(query: string): Promise<{ id: string; name: string; sheetName: string }[]>;
  tab(id: string): Promise<{
    sheetId: string;
    sheetName: string;
    name: string;
    columns: { id: string; name: string }[];
    revision: number;
    rows: number;
  } | null>;
  /** Where the n-th row stands; 0 for the one above the first. */
  positionOf(tabId: string, number: number): Promise<number>;
  /** Rows changed since, in the order they were; those typed in just now wait, and `unsettled` says so. */
  changes(
    tabId: string,
    ask: { after: SheetPlace; belowPosition: number; settledBefore: number; most: number },
  ): Promise<{ rows: SheetChange[]; unsettled: boolean }>;
  lastRow(tabId: string): Promise<SheetChange | null>;
}

export interface FileStore {
  /** The oldest file that has not been read. */
  next(): Promise<{ id: string; bytes: Buffer } | null>;
  newest(): Promise<{ id: string; bytes: Buffer } | null>;
  /** Keeps a file that was fetched, unless it is the newest already, and of those before it the last few. */
  add(name: string, bytes: Buffer): Promise<void>;
  finish(
    id: string,
    told: { state: 'read' | 'refused'; problem: string | null; rows: number; fresh: number },
  ): Promise<void>;
  /** Keeps what was learnt of the source from its file: tab and columns as they stand now. */
  learn(settings: Record<string, unknown>): Promise<void>;
}

/** One thing to choose from: a form, a funnel step, a calendar. */
export interface Choice {
  id: string;
  label: string;
  /** Where it belongs: the page of a form, the funnel of a step. */
  group?: string;
  /** False when nothing can come from it as things are. */
  live?: boolean;
}

export interface ChoicePage {
  choices: Choice[];
  /** Asks for the next page; null at the end. */
  next: string | null;
}

const Ask = z.record(z.string().max(100), z.string().max(2000));
/** What a described service's next page is asked with, as one text, and back again. What is no such text asks for the first. */
export const pageNext = ({ next, items }: { next: Record<string, string> | null; items: readonly unknown[] }) =>
  next && items.length > 0 ? JSON.stringify(next) : null;
export function pageAsk(after: string | null): Record<string, string> {
  if (after === null) return {};
  try {
    return Ask.parse(JSON.parse(after));
  } catch {
    return {};
  }
}

export interface Prepared<Settings> {
  ok: true;
  name: string;
  settings: Settings;
  /** Which field is which, where nobody has to be asked: then it is live at once. */
  card?: LeadCard;
  /** When it is fetched from there: how often, and from where on. */
  pull?: { everyMinutes: number; cursor: unknown; backlog: number };
}

/** What went wrong outside or with what was chosen, as the coordinator reads it. */
export interface Trouble {
  ok: false;
  problem: string;
  /** What the service asked us to wait, in milliseconds. */
  retryAfterMs: number | null;
}
export const trouble = (problem: string): Trouble => ({ ok: false, problem, retryAfterMs: null });

/** Sets a source of the kind up with the outside service. `hook` is where pushes go, and the secret they are signed with. */
export interface SourceSetup<Input, Settings> {
  input: z.ZodType<Input>;
  prepare(
    ports: SourcePorts,
    input: Input,
    hook: { address: string; secret: string },
  ): Promise<Prepared<Settings> | Trouble>;
  /** What can be chosen, page by page; `query` is a search. `of` says which list, for kinds that have several. */
  choices?(
    ports: SourcePorts,
    ask: { connectionId: string; query: string; after: string | null; of: string },
  ): Promise<({ ok: true } & ChoicePage) | Trouble>;
  /** Points what was set up at another address or secret: the address leaked, or ours has changed. */
  repoint?(
    ports: SourcePorts,
    settings: Settings,
    hook: { address: string; secret: string },
  ): Promise<{ ok: true; settings: Settings } | Trouble>;
}

export interface Pulled {
  ok: true;
  raws: RawArrival[];
  cursor: unknown;
  /** There is more to fetch at once. */
  more: boolean;
  /** What the service still holds after this, where it says so. */
  unfetched: { count: number; firstExpiresAt: string | null } | null;
  /** How many items this went past, where that differs from what it brought. */
  passed?: number;
  /** Look again this soon, in milliseconds, whatever the schedule says. */
  againInMs?: number;
}

/**
 * Fetches what is new, batch after batch. It keeps nothing itself: the cursor of each batch is stored with it, and the next is
 * asked for only then. It ends when there is no more, or with what went wrong.
 */
export interface SourcePuller<Settings> {
  pull(ports: SourcePorts, settings: Settings, cursor: unknown): AsyncGenerator<Pulled | Trouble>;
  /** What the service holds for us and will throw away one day; only for services that do. */
  unfetched?(
    ports: SourcePorts,
    settings: Settings,
    cursor: unknown,
  ): Promise<{ ok: true; count: number; firstExpiresAt: string | null } | Trouble>;
  /** Whoever changes something there says so at once, so that it can be looked at while the source is still being set up. */
  toldOfChanges?: true;
  /** The newest item there is, for a sample. */
  newest(ports: SourcePorts, settings: Settings): Promise<{ ok: true; raw: RawArrival | null } | Trouble>;
}

/** All there is to a kind of source on the server; its form in the browser is in forms.ts. */
export interface SourceModule<Settings = never, Input = never> {
  definition: SourceKind<Settings>;
  setup: SourceSetup<Input, Settings>;
  puller?: SourcePuller<Settings>;
}
/** A module whose own types are checked where it is written and forgotten here. */
// biome-ignore lint/suspicious/noExplicitAny: settings and input go through the module's own schemas before they reach it.
export type AnySourceModule = SourceModule<any, any>;

/** JSON as it would have been pushed, for what was fetched. */
export const jsonRaw = (value: unknown): RawArrival => ({
  headers: {},
  contentType: 'application/json',
  body: Buffer.from(JSON.stringify(value), 'utf8'),
});
