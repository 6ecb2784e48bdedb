import { z } from 'zod';
import type { DescribedAccount } from '../../gateways/described/described-caller.ts';
import { hasCall } from '../ask-service.ts';
import { type SourcePorts, type SourcePuller, type SourceSetup, trouble } from '../source-module.ts';
import { type Hook, subscribe } from '../subscribe.ts';
import { type Ask, adPlatform, asFetched, type Place, type PlatformForm, past } from './ad-platform.ts';
import type { AdFormSettings } from './definition.ts';

export const EVERY_MINUTES = [1, 5, 15, 60] as const;

const Input = z.object({
  connectionId: z.uuid('Choose a connection'),
  scope: z.enum(['form', 'page']),
  /** A form's id, or a page's. */
  targetId: z.string().min(1, 'Choose a form').max(200),
  how: z.enum(['push', 'pull']),
  everyMinutes: z.literal(EVERY_MINUTES).default(5),
  /** What to do with entries that are there already, when they are fetched. */
  from: z.enum(['new', 'held']).default('new'),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This connection is not there any more. Choose another.');

export const adFormSetup: SourceSetup<Input, AdFormSettings> = {
  input: Input,
  async choices(ports, ask) {
    const account = await ports.describedAccount(ask.connectionId);
    if (!account) return GONE;
    if (ask.of === 'held') {
      // Of one form, whose ID is the query: how many entries there are to fetch.
      const got = await adPlatform.entries(ports, account, ask.query, {}, 0);
      if (!got.ok) return got;
      return {
        ok: true,
        next: null,
        choices: got.held ? [{ id: 'held', label: String(got.held.count) }] : [],
      };
    }
    const forms = await adPlatform.forms(ports, account);
    if (!forms.ok) return forms;
    const wanted = ask.query.toLowerCase();
    const fits = (form: PlatformForm) => `${form.name} ${form.page.name}`.toLowerCase().includes(wanted);
    if (ask.of === 'pages') {
      const pages = new Map(forms.forms.filter(fits).map((form) => [form.page.id, form.page.name]));
      return { ok: true, next: null, choices: [...pages].map(([id, label]) => ({ id, label })) };
    }
    return {
      ok: true,
      next: null,
      choices: forms.forms
        .filter(fits)
        .map((form) => ({ id: form.id, label: form.name, group: form.page.name, live: form.live })),
    };
  },

  async prepare(ports, input, hook) {
    const account = await ports.describedAccount(input.connectionId);
    if (!account) return GONE;
    const forms = await adPlatform.forms(ports, account);
    if (!forms.ok) return forms;
    const one = forms.forms.find((form) => (input.scope === 'form' ? form.id : form.page.id) === input.targetId);
    if (!one) return trouble('This is no longer there on the ad platform. Choose another.');
    const scope = input.scope;
    const base = { connectionId: input.connectionId, scope, pageId: one.page.id, pageName: one.page.name };
    if (scope === 'page') {
      if (input.how === 'pull')
        return trouble('All forms of a page can only be pushed. Choose one form to fetch from it on a schedule.');
      const made = await listen(ports, account, { page: one.page.id }, hook);
      if (!made.ok) return made;
      const settings = { ...base, how: 'push' as const, formId: '', formName: '', byHand: made.byHand };
      return { ok: true, name: `All forms of ${one.page.name}`, settings };
    }
    const form = { formId: one.id, formName: one.name };
    if (input.how === 'push') {
      const made = await listen(ports, account, { form: one.id }, hook);
      if (!made.ok) return made;
      return {
        ok: true,
        name: `${one.name} form`,
        settings: { ...base, ...form, how: 'push', byHand: made.byHand },
      };
    }
    if (!hasCall(account, 'entries'))
      return trouble(`Nothing in the description of ${account.who} says how entries are fetched.`);
    const settings = { ...base, ...form, how: 'pull' as const, byHand: false };
    const name = `${one.name} form`;
    const { everyMinutes } = input;
    if (input.from === 'new') {
      const newest = await adPlatform.newest(ports, account, one.id);
      if (!newest.ok) return newest;
      return { ok: true, name, settings, pull: { everyMinutes, cursor: newest.behind, backlog: 0 } };
    }
    const start = await adPlatform.entries(ports, account, one.id, {}, 0);
    if (!start.ok) return start;
    return { ok: true, name, settings, pull: { everyMinutes, cursor: null, backlog: start.held?.count ?? 0 } };
  },

  async repoint(ports, settings, hook) {
    if (settings.how === 'pull') return { ok: true, settings };
    const account = await ports.describedAccount(settings.connectionId);
    if (!account) return GONE;
    const to = settings.scope === 'page' ? { page: settings.pageId } : { form: settings.formId };
    const made = await listen(ports, account, to, hook);
    return made.ok ? { ok: true, settings: { ...settings, byHand: made.byHand } } : made;
  },
};

/** From now on every entry of the form, or of all the page's forms, is pushed to the hook. */
const listen = (ports: SourcePorts, account: DescribedAccount, to: Ask, hook: Hook) =>
  subscribe(ports, account, hook, to, 'page' in to ? 'subscribe_page' : 'subscribe');

const Stored = z.object({ ask: z.record(z.string(), z.string()).default({}), seen: z.array(z.string()).default([]) });
/** A text is a cursor that was kept before descriptions said how entries are gone on with. */
const placeOf = (stored: unknown): Place =>
  typeof stored === 'string' ? { ask: { cursor: stored }, seen: [] } : Stored.parse(stored ?? {});

export const adFormPuller: SourcePuller<AdFormSettings> = {
  async *pull(ports, settings, stored) {
    const account = await ports.describedAccount(settings.connectionId);
    let place = placeOf(stored);
    const known = new Set(place.seen);
    for (let more = true; more; ) {
      const got = account ? await adPlatform.entries(ports, account, settings.formId, place.ask) : GONE;
      if (!got.ok) {
        yield got;
        return;
      }
      const { entries, held, next } = got;
      const left = held ? Math.max(0, held.count - entries.length) : 0;
      more = entries.length > 0 && next !== null && (!held || left > 0);
      const reached = past(account!, place, got, more);
      if (!reached.ok) {
        yield reached;
        return;
      }
      place = { ask: reached.ask, seen: reached.seen };
      yield {
        ok: true,
        raws: entries.filter(({ id }) => !known.has(String(id))).map(asFetched),
        cursor: place,
        more,
        unfetched: held ? { count: left, firstExpiresAt: left > 0 ? held.firstExpiresAt : null } : null,
      };
    }
  },
  async unfetched(ports, settings, cursor) {
    const account = await ports.describedAccount(settings.connectionId);
    if (!account) return GONE;
    const got = await adPlatform.entries(ports, account, settings.formId, placeOf(cursor).ask, 0);
    return got.ok ? { ok: true, count: got.held?.count ?? 0, firstExpiresAt: got.held?.firstExpiresAt ?? null } : got;
  },
  async newest(ports, settings) {
    const account = await ports.describedAccount(settings.connectionId);
    if (!account) return GONE;
    const got = await adPlatform.newest(ports, account, settings.formId);
    if (!got.ok) return got;
    return { ok: true, raw: got.entry ? asFetched(got.entry) : null };
  },
};
