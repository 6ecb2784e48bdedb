import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import type pg from 'pg';
import { shortToken } from './core/signing/short-token.ts';
import { HotStore } from './db/hot/store.ts';
import { openPool } from './db/pool.ts';
import { openSecretBox, type SecretBox } from './db/secret-box.ts';
import { Bell } from './engine/bell.ts';
import { OwnCalendars } from './engine/calendars/own-calendars.ts';
import { BulkWorker } from './engine/choosing/bulk-worker.ts';
import { CompanyDirectory } from './engine/company-directory.ts';
import { Attachments } from './engine/delivery/attachments.ts';
import { FailureNotices } from './engine/delivery/failure-notices.ts';
import { FollowedLinks } from './engine/delivery/follow-link.ts';
import { Mailer } from './engine/delivery/mailer.ts';
import type { DeliveryParts } from './engine/delivery/make-delivery.ts';
import { Outbox } from './engine/delivery/outbox.ts';
import { TemplateReviews } from './engine/delivery/template-reviews.ts';
import { TextAllowance } from './engine/delivery/text-allowance.ts';
import { Bounces } from './engine/inbound/bounces.ts';
import { CarrierSessions } from './engine/inbound/carrier-sessions.ts';
import { EmailReplies } from './engine/inbound/email-replies.ts';
import { Reports } from './engine/inbound/reports.ts';
import { Inbound } from './engine/inbound/take-inbound.ts';
import { Bookings } from './engine/intake/bookings.ts';
import { FloodBreaker } from './engine/intake/flood-breaker.ts';
import { Importer } from './engine/intake/importer.ts';
import { Intake } from './engine/intake/intake.ts';
import { MailWatch } from './engine/intake/mail-watch.ts';
import { Puller } from './engine/intake/puller.ts';
import { SourcePortsFactory } from './engine/intake/source-ports.ts';
import { Leases } from './engine/leases.ts';
import { ListMembership } from './engine/lists/join-list.ts';
import { Lookout } from './engine/lookout.ts';
import type { Loop } from './engine/loop.ts';
import { deviceNotices } from './engine/notices/device-notices.ts';
import { messageNotices } from './engine/notices/message-notices.ts';
import { CostFeeds } from './engine/results/cost-feeds.ts';
import { Reckoner } from './engine/results/reckoner.ts';
import { SiteVisits } from './engine/results/site-visits.ts';
import { answerFact } from './engine/runs/answer-fact.ts';
import { Conductor } from './engine/runs/conductor.ts';
import { byTheClock } from './engine/runs/lanes-at-work.ts';
import { Elsewhere } from './engine/services/elsewhere.ts';
import { ServiceGrants } from './engine/services/grants.ts';
import { RowsElsewhere } from './engine/services/rows-elsewhere.ts';
import { ServiceHealth } from './engine/services/service-health.ts';
import { ServiceTurns } from './engine/services/service-turns.ts';
import { SettingsCache } from './engine/settings-cache.ts';
import { addressGuard } from './gateways/address-guard.ts';
import { CalendarAccounts } from './gateways/calendar-account.ts';
import { DescribedCaller } from './gateways/described/described-caller.ts';
import { FilePlaces } from './gateways/file-place.ts';
import { HttpCaller } from './gateways/http.ts';
import { MailAccounts } from './gateways/mail-account.ts';
import { MailSender } from './gateways/mail-server.ts';
import { OutsideDatabases } from './gateways/outside-database.ts';
import { PushSender } from './gateways/push-service.ts';
import { SftpPlaces } from './gateways/sftp-place.ts';
import { SmppSessions } from './gateways/smpp/sessions.ts';
import { StrangerReader } from './reading/stranger-reader.ts';
import { readSettings, type Settings } from './settings.ts';
import { stepPerformers } from './steps/perform-registry.ts';
import type { Outside } from './steps/performers.ts';
import { TableReader } from './tables/table-reader.ts';
import { TableWriter } from './tables/table-writer.ts';

/** How long what is in hand may take to come to its end when a process is asked to stop, in milliseconds. */
const GRACE_MS = 8_000;
/** How often it is looked whether somebody is to be told of failures, in milliseconds. */
const TELL_EVERY_MS = 5000;
/** How often it is looked whether somebody's device is to be told something, in milliseconds. */
const NOTICES_EVERY_MS = 2000;

/** How often it is looked whether mailboxes are watched and carriers listened to, in milliseconds: after a break one is again so soon. */
const WATCH_EVERY_MS = 5000;

/** What every process of ours works with, for as long as it lives. */
export interface Machinery {
  settings: Settings;
  pool: pg.Pool;
  secrets: SecretBox;
  settingsCache: SettingsCache;
  conductor: Conductor;
  intake: Intake;
  reports: Reports;
  outbox: Outbox;
  mailer: Mailer;
  bulk: BulkWorker;
  bookings: Bookings;
  reviews: TemplateReviews;
  membership: ListMembership;
  /** What a message is made with. */
  deliveryParts: DeliveryParts;
  bounces: Bounces;
  replies: EmailReplies;
  followed: FollowedLinks;
  bell: Bell;
  outside: Outside;
  reader: StrangerReader;
  tables: TableReader;
  tableWriter: TableWriter;
  sourcePorts: SourcePortsFactory;
  puller: Puller;
  importer: Importer;
  failureNotices: FailureNotices;
  push: PushSender;
  /** Tell people of what comes: on their devices, by email, by text. */
  notices: Loop[];
  reckoner: Reckoner;
  grants: ServiceGrants;
  costFeeds: CostFeeds;
  siteVisits: SiteVisits;
  /** What looks for something to do by itself, and how often, in milliseconds. */
  /** From now on they do: in the worker, never in the web process. */
  startLoops(): void;
  now: () => number;
  close(): Promise<void>;
}

export function openMachinery(): Machinery {
  const settings = readSettings(process.env);
  const now = () => Date.now();
  const pool = openPool(settings.databaseUrl, 10);
  const secrets = openSecretBox(settings.key, settings.keyFile);
  const store = new HotStore(pool);
  const leases = new Leases(`${hostname()}:${process.pid}:${randomBytes(4).toString('hex')}`, store, now);
  leases.start();
  const guard = addressGuard(
    settings.allowInside,
    settings.practice ? [settings.practice.url, settings.practice.smtp] : [],
  );
  const http = new HttpCaller(guard);
  const settingsCache = new SettingsCache(
    pool,
    secrets,
    settings.publicUrl,
    now,
    settings.mailPort === 0 ? null : settings.mailDomain,
  );
  const health = new ServiceHealth({ pool, now });
  const grants = new ServiceGrants({ pool, secrets, http, now });
  const turns = new ServiceTurns({ pool, now });
  const described = new DescribedCaller({ http, now, grants, turns, seen: (call) => health.saw(call) });
  const companies = new CompanyDirectory({ pool, settingsCache, services: described, now });
  const databases = new OutsideDatabases(guard);
  const places = new FilePlaces(http, new SftpPlaces(guard));
  const rows = new RowsElsewhere({ pool, places, now, seen: (call) => health.saw(call) });
  const outside: Outside = {
    http,
    services: described,
    databases,
    mailboxes: new MailAccounts(guard),
    places,
    calendars: new CalendarAccounts(http),
    elsewhere: new Elsewhere({
      ...{ pool, settingsCache, services: described, databases, rows, now },
      seen: (call) => health.saw(call),
    }),
    mail: new MailSender(guard, grants),
    smpp: new SmppSessions({ guard, now, turns, seen: (call) => health.saw(call) }),
    companies,
    attachments: new Attachments(pool, http),
    now,
  };
  const bell = new Bell(pool);
  const texts = new TextAllowance({ pool, bell, now });
  const tokenKey = secrets.derive('links');
  const deliveryParts: DeliveryParts = {
    publicUrl: settings.publicUrl,
    token: (words: string) => shortToken(tokenKey, words),
    linkKey: secrets.derive('list-links'),
  };
  const membership = new ListMembership({ settingsCache, ...deliveryParts });
  const conductor = new Conductor(
    {
      store,
      leases,
      outside,
      performers: stepPerformers,
      texts,
      fact: (businessId, asked) => answerFact(pool, businessId, asked),
      membership,
      now,
      later: byTheClock,
      random: Math.random,
      ...deliveryParts,
    },
    settingsCache,
    bell,
  );
  const wake = () => conductor.loop.nudge();
  const outbox = new Outbox({
    pool,
    settingsCache,
    outside,
    bell,
    texts,
    holder: leases.holder,
    now,
    random: Math.random,
  });
  // Beside the bundle; run from source, where the build puts it.
  const threadFile = (name: string) => {
    const built = join(import.meta.dirname, name);
    return existsSync(built) ? built : join(import.meta.dirname, '../build', name);
  };
  const reader = new StrangerReader(threadFile('read-strangers.mjs'));
  const intake = new Intake({
    store,
    settingsCache,
    conductor,
    leases,
    bell,
    reader,
    flood: new FloodBreaker({ pool, bell, settingsCache, now }),
    now,
  });
  const tables = new TableReader(threadFile('read-table.mjs'));
  const sourcePorts = new SourcePortsFactory({
    ...{ pool, secrets, http: outside.http, tables, reader, now },
    ...{
      described,
      settingsCache,
      databases: outside.databases,
      mailboxes: outside.mailboxes,
      places: outside.places,
      grants,
    },
  });
  const puller = new Puller({
    pool,
    settingsCache,
    intake,
    sourcePorts,
    bell,
    holder: leases.holder,
    now,
    random: Math.random,
  });
  const importer = new Importer({ pool, settingsCache, intake, tables, bell, holder: leases.holder, now });
  const failureNotices = new FailureNotices({ pool, settingsCache, outside, publicUrl: settings.publicUrl, now });
  const push = new PushSender({ http, secret: secrets.derive('web-push'), publicUrl: settings.publicUrl, now });
  const notices = [
    deviceNotices({ pool, push, now, random: Math.random }),
    messageNotices({ pool, settingsCache, outside, texts, publicUrl: settings.publicUrl, now, random: Math.random }),
  ];
  const mailWatch = new MailWatch({
    pool,
    secrets,
    mailboxes: outside.mailboxes,
    grants,
    due: () => puller.loop.nudge(),
    now,
  });
  const mailer = new Mailer({
    pool,
    settingsCache,
    outbox,
    holder: leases.holder,
    now,
    ...deliveryParts,
  });
  const reports = new Reports({
    ...{ pool, secrets, bell, wake, now, intake, settingsCache },
    inbound: new Inbound({ pool, settingsCache, intake, outbox, formKey: deliveryParts.linkKey, now }),
  });
  const carriers = new CarrierSessions({ pool, secrets, smpp: outside.smpp, reports, bell, now });
  const bookings = new Bookings({ pool, bell });
  const ownCalendars = new OwnCalendars({
    ...{ pool, secrets, calendars: outside.calendars, reader, bell, now, random: Math.random },
    ...{ seen: (call) => health.saw(call), publicUrl: settings.publicUrl },
  });
  const reckoner = new Reckoner({ pool, bell, now });
  const costFeeds = new CostFeeds({ pool, sourcePorts, bell, now, random: Math.random });
  const bulkWorker = new BulkWorker({ pool, membership, tables, bell, holder: leases.holder, now });
  const asked: Loop[] = [
    conductor.loop,
    ...outbox.loops,
    mailer.loop,
    bulkWorker.loop,
    bookings.loop,
    ownCalendars.loop,
    puller.loop,
    puller.samples,
    importer.loop,
    reckoner.loop,
    costFeeds.loop,
  ];
  const lookout = new Lookout(pool, asked);
  const loops = [lookout.loop, ...asked, failureNotices.loop, mailWatch.loop, carriers.loop, ...notices];
  return {
    settings,
    pool,
    secrets,
    settingsCache,
    conductor,
    intake,
    bell,
    outside,
    now,
    outbox,
    mailer,
    bulk: bulkWorker,
    bookings,
    membership,
    deliveryParts,
    reviews: new TemplateReviews({ pool, settingsCache, services: described, bell }),
    bounces: new Bounces({ pool, bell, reader, now }),
    replies: new EmailReplies({ pool, bell, reader, wake, now }),
    followed: new FollowedLinks({ pool, bell, now }),
    reports,
    reader,
    tables,
    tableWriter: new TableWriter(threadFile('write-table.mjs')),
    sourcePorts,
    puller,
    importer,
    failureNotices,
    push,
    notices,
    reckoner,
    grants,
    costFeeds,
    siteVisits: new SiteVisits({ pool, now }),
    startLoops() {
      lookout.start();
      failureNotices.loop.start(TELL_EVERY_MS);
      mailWatch.loop.start(WATCH_EVERY_MS);
      carriers.loop.start(WATCH_EVERY_MS);
      for (const loop of notices) loop.start(NOTICES_EVERY_MS);
    },
    async close() {
      await Promise.all([conductor.stop(GRACE_MS), ...loops.map((loop) => loop.stop(GRACE_MS))]);
      leases.stop();
      bell.stop();
      mailWatch.stop();
      outside.mail.close();
      await outside.smpp.close();
      await Promise.all([outside.http.close(), reader.close()]);
      await health.write();
      await pool.end();
    },
  };
}
