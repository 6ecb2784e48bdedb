import type { CalendarFile } from '../core/appointments/read-ics.ts';
import type { Hears } from '../core/described/description.ts';
import type { RawArrival, SourceReading } from '../core/source/source-kind.ts';
import type { Feed } from '../sources/content-feed/feed.ts';

/** A mail as far as we look at it. */
export interface ReadMail {
  headerLines: { key: string; line: string }[];
  /** Address of the first author, "" when there is none. */
  from: string;
  subject: string;
  text: string;
  /** What was written, without what it quotes; "" for a report. */
  reply: string;
  messageId: string | null;
  /** Parts that are reports about mail, by their media type in lower case. */
  reports: { type: string; text: string }[];
}

/** What is read, with what it gives. */
export interface Readings {
  arrival: {
    asked: { kind: string; raw: RawArrival; settings: unknown; hears: Hears | null | undefined };
    gives: SourceReading;
  };
  /** `report`: whatever came back, whose reports stay parts of their own (RFC 3464). */
  mail: { asked: { body: Uint8Array; report: boolean }; gives: ReadMail };
  attachment: { asked: { body: Uint8Array; n: number }; gives: { name: string; bytes: Uint8Array } | null };
  calendar: { asked: { text: string; zone: string; now: number }; gives: CalendarFile };
  feed: { asked: { bytes: Uint8Array; address: string }; gives: Feed };
}

export type ReadingTask = { [What in keyof Readings]: { what: What } & Readings[What]['asked'] }[keyof Readings];
