import { v7 as uuidv7 } from 'uuid';
import { WHO } from '../../core/described/who.ts';
import { describedAccount } from '../../db/described-account.ts';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import { calendarAccount } from '../../engine/calendars/calendar-account.ts';
import { accessOf } from '../../engine/services/access-of.ts';
import { smppAccount } from '../../engine/services/smpp-account.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';

/** An account as it would be kept. */
export interface TriedAccount {
  /** Of one that is known already. */
  id?: string;
  kind: ConnectionKind;
  name: string;
  settings: ConnectionSettings;
  secret: string | null;
}

/**
 * Goes to a service with its key before anything is built on it.
 *
 * @returns what was found there, in words: "It lets us in: Wrenfield Music School, 4 forms."
 * @throws Refusal 422 `key` when the key is not accepted; 502 `not-tried` when that cannot be told just now.
 */
export async function tryAccount(use: Use, { id, kind, name, settings, secret }: TriedAccount): Promise<string> {
  const what = WHO[kind];
  const refused = (problem: string) =>
    new Refusal(422, 'key', `${problem} Look at the address and the key, and try again.`);
  const untried = (problem: string) => new Refusal(502, 'not-tried', problem);
  const access = settings.access && accessOf({ id: id ?? '', kind, name, settings, secret });
  if (access && !(await isAllowed(use, id))) return 'Kept. Now open this connection, and allow access to it there.';
  if (settings.smpp) {
    const found = await use.runtime.outside.smpp.lookIn(smppAccount(id ?? uuidv7(), settings, secret));
    if (found.ok) return `It lets us in as ${settings.user}, twice at a time as is needed.`;
    throw found.refused ? refused(found.detail) : untried(found.detail);
  }
  if (kind === 'mail_server') {
    const { address, user, authority } = settings;
    const answer = await use.runtime.outside.mail.lookIn({
      address,
      user: user ?? null,
      password: access ? null : secret,
      authority,
      ...(access && id ? { access: { connectionId: id, ask: access.ask } } : {}),
    });
    if (answer.ok) return `It lets us in${user ? ` as ${user}` : ' without a password'}.`;
    throw answer.refused
      ? refused(`${what} says no: ${answer.detail}.`)
      : untried(`${what} cannot be reached: ${answer.detail}.`);
  }
  if (kind === 'database') {
    const { address, user = '', authority } = settings;
    const views = await use.runtime.outside.databases.views({ address, user, password: secret ?? '', authority });
    if (views.ok)
      return `It lets us in: ${views.value.length === 1 ? 'one view or table' : `${views.value.length} views and tables`} to read.`;
    throw views.refused ? refused(views.problem) : untried(views.problem);
  }
  if (kind === 'calendar_account') {
    const found = await use.runtime.outside.calendars.calendars(calendarAccount(settings, secret));
    if (found.ok) {
      const [first] = found.value;
      if (first?.href === '') return `It gives a calendar: ${first.name}.`;
      return `It lets us in: ${found.value.length === 1 ? 'one calendar' : `${found.value.length} calendars`}.`;
    }
    throw found.refused ? refused(found.problem) : untried(found.problem);
  }
  if (kind === 'file_place') {
    const { address, user = '', authority, hostKey } = settings;
    const account = { address, user, password: secret ?? '', authority, hostKey };
    const files = await use.runtime.outside.places.list(account, '');
    if (files.ok)
      return `It lets us in: ${files.value.length === 1 ? 'one file or folder' : `${files.value.length} files and folders`}.`;
    if (files.problem.startsWith('The server does not list')) return `It answers. ${files.problem}`;
    throw files.refused ? refused(files.problem) : untried(files.problem);
  }
  if (kind === 'mail_account') {
    const { address, user = '', authority } = settings;
    const got = access && id ? await use.runtime.grants.token(id, access.ask) : null;
    if (got && !got.ok) throw untried(got.detail);
    const account = { address, user, authority, password: access ? '' : (secret ?? ''), token: got?.token };
    const folders = await use.runtime.outside.mailboxes.folders(account);
    if (folders.ok)
      return `It lets us in as ${user}: ${folders.value.length === 1 ? 'one folder' : `${folders.value.length} folders`}.`;
    throw folders.refused ? refused(folders.problem) : untried(folders.problem);
  }
  // As one that is not known yet: a person who asks is never told that it is left alone for a moment.
  const service = describedAccount({ id: uuidv7(), kind, name, settings, secret });
  if (!service) throw refused('It says nothing of how the service is called: choose a description.');
  const { way } = service.description.signIn;
  if (way === 'oauth2-code' && !(await isAllowed(use, id))) return 'Kept. Now allow access to it, below.';
  if (!service.description.calls.account)
    return 'Kept. Its description has no call to try the key by: make one of its calls under “Try it”.';
  const tried = { ...service, ...(id ? { grantOf: id } : {}) };
  const { answer, data, values } = await use.runtime.outside.services.call(tried, 'account', {});
  const { reads } = service.description.calls.account;
  if (answer.kind === 'accepted' && (!data?.ok || (reads.name && !values.name)))
    throw untried(`${what} answered something that is not understood.`);
  if (answer.kind === 'accepted') return `It lets us in: ${[values.name, values.holds].filter(Boolean).join(', ')}.`;
  if (answer.kind === 'refused' && ['http-401', 'http-403', 'key'].includes(answer.code))
    throw refused(answer.code === 'key' ? answer.detail : `${what} does not accept this key.`);
  if (answer.kind === 'refused' && answer.code === 'http-404')
    throw untried(`${what} answers, but has no account at this address. Look at the address once more.`);
  throw untried(answer.detail);
}

/** Whether anything has been allowed at all. */
async function isAllowed({ db, actor }: Use, connection: string | undefined): Promise<boolean> {
  if (!connection) return false;
  const { rowCount } = await db.query('select from service_grant where connection_id = $1 and business_id = $2', [
    connection,
    actor.businessId,
  ]);
  return rowCount === 1;
}
