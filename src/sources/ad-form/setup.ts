import { z } from 'zod';
import { jsonRaw, type SourcePorts, type SourcePuller, type SourceSetup, trouble } from '../source-module.ts';
import { adPlatform, type PlatformForm } from './ad-platform.ts';
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
    const account = await ports.account(ask.connectionId);
    if (!account) return GONE;
    if (ask.of === 'held') {
      // Of one form, whose ID is the query: how many entries there are to fetch.
      const held = await adPlatform.entries(ports.services, account, ask.query, null, 0);
      if (!held.ok) return held;
      return { ok: true, next: null, choices: [{ id: 'held', label: String(held.value.held.count) }] };
    }
    const forms = await adPlatform.forms(ports.services, account);
    if (!forms.ok) return forms;
    const wanted = ask.query.toLowerCase();
    const fits = (form: PlatformForm) => `${form.name} ${form.page.name}`.toLowerCase().includes(wanted);
    if (ask.of === 'pages') {
      const pages = new Map(forms.value.filter(fits).map((form) => [form.page.id, form.page.name]));
      return { ok: true, next: null, choices: [...pages].map(([id, label]) => ({ id, label })) };
    }
    return {
      ok: true,
      next: null,
      choices: forms.value
        .filter(fits)
        .map((form) => ({ id: form.id, label: form.name, group: form.page.name, live: form.live })),
    };
  },

  async prepare(ports, input, hook) {
    const account = await ports.account(input.connectionId);
    if (!account) return GONE;
    const forms = await adPlatform.forms(ports.services, account);
    if (!forms.ok) return forms;
    const one = forms.value.find((form) => (input.scope === 'form' ? form.id : form.page.id) === input.targetId);
    if (!one) return trouble('This is no longer there on the ad platform. Choose another.');
    const scope = input.scope;
    const base = { connectionId: input.connectionId, scope, pageId: one.page.id, pageName: one.page.name };
    if (scope === 'page') {
      if (input.how === 'pull')
        return trouble('All forms of a page can only be pushed. Choose one form to fetch from it on a schedule.');
      const made = await adPlatform.subscribe(ports.services, account, { page: one.page.id }, hook);
      if (!made.ok) return made;
      const settings = { ...base, how: 'push' as const, formId: '', formName: '', subscriptionId: made.value };
      return { ok: true, name: `All forms of ${one.page.name}`, settings };
    }
    const form = { formId: one.id, formName: one.name };
    if (input.how === 'push') {
      const made = await adPlatform.subscribe(ports.services, account, { form: one.id }, hook);
      if (!made.ok) return made;
      return {
        ok: true,
        name: `${one.name} form`,
        settings: { ...base, ...form, how: 'push', subscriptionId: made.value },
      };
    }
    const start =
      input.from === 'new'
        ? await adPlatform.newest(ports.services, account, one.id)
        : await adPlatform.entries(ports.services, account, one.id, null, 0);
    if (!start.ok) return start;
    return {
      ok: true,
      name: `${one.name} form`,
      settings: { ...base, ...form, how: 'pull', subscriptionId: null },
      pull: {
        everyMinutes: input.everyMinutes,
        cursor: input.from === 'new' ? start.value.cursor : null,
        backlog: input.from === 'new' ? 0 : start.value.held.count,
      },
    };
  },

  async repoint(ports, settings, hook) {
    if (settings.how === 'pull') return { ok: true, settings };
    const account = await ports.account(settings.connectionId);
    if (!account) return GONE;
    const to = settings.scope === 'page' ? { page: settings.pageId } : { form: settings.formId };
    const made = await adPlatform.subscribe(ports.services, account, to, hook);
    return made.ok ? { ok: true, settings: { ...settings, subscriptionId: made.value } } : made;
  },
};

const Cursor = z.string().nullable();
const asPushed = (entry: unknown) => jsonRaw({ type: 'form.entry', entry });

async function opened(ports: SourcePorts, settings: AdFormSettings) {
  return (await ports.account(settings.connectionId)) ?? null;
}

export const adFormPuller: SourcePuller<AdFormSettings> = {
  async *pull(ports, settings, stored) {
    const account = await opened(ports, settings);
    let cursor = Cursor.parse(stored ?? null);
    for (let more = true; more; ) {
      const got = account ? await adPlatform.entries(ports.services, account, settings.formId, cursor) : GONE;
      if (!got.ok) {
        yield got;
        return;
      }
      const { entries, held } = got.value;
      const left = Math.max(0, held.count - entries.length);
      cursor = got.value.cursor;
      more = left > 0 && entries.length > 0;
      yield {
        ok: true,
        raws: entries.map(asPushed),
        cursor,
        more,
        unfetched: { count: left, firstExpiresAt: left > 0 ? held.firstExpiresAt : null },
      };
    }
  },
  async unfetched(ports, settings, cursor) {
    const account = await opened(ports, settings);
    if (!account) return GONE;
    const got = await adPlatform.entries(ports.services, account, settings.formId, Cursor.parse(cursor ?? null), 0);
    return got.ok ? { ok: true, ...got.value.held } : got;
  },
  async newest(ports, settings) {
    const account = await opened(ports, settings);
    if (!account) return GONE;
    const got = await adPlatform.newest(ports.services, account, settings.formId);
    if (!got.ok) return got;
    const entry = got.value.entries.at(-1);
    return { ok: true, raw: entry ? asPushed(entry) : null };
  },
};
