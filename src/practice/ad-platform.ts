import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { costsOf } from './ad-costs.ts';
import { readJson, reply } from './http.ts';
import type { Subscribers } from './subscribers.ts';
import type { World } from './world.ts';
import type { AdForm, FormEntry, Push } from './world-state.ts';

const DAY = 86_400_000;

/** The ad platform: forms under ads, pushed to who has subscribed and held a while for who fetches. Its API is in docs/gateways.md. */
export class AdPlatformDesk {
  constructor(
    private readonly world: World,
    private readonly subscribers: Subscribers,
    /** The key of each account. */
    private readonly keys: Record<AdForm['account'], string>,
  ) {}

  async take(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { trouble } = this.world.state;
    if (trouble.adsDown) {
      request.socket.destroy();
      return;
    }
    if (trouble.adsBusy)
      return reply(response, 429, { code: 'busy', detail: 'Too many calls.' }, { 'retry-after': '7' });
    const account = (['school', 'adults'] as const).find(
      (one) => request.headers.authorization === `Bearer ${this.keys[one]}`,
    );
    if (!account) return reply(response, 401, { code: 'key', detail: 'The key of this account is not right.' });
    const forms = this.world.state.forms.filter((form) => form.account === account);
    const url = new URL(path, 'http://desk');
    if (url.pathname === '/forms' && request.method === 'GET')
      return reply(response, 200, { forms: forms.map(({ id, name, page, live }) => ({ id, name, page, live })) });
    if (url.pathname === '/costs' && request.method === 'GET')
      return reply(response, 200, costsOf(forms, this.world.state.entries, url.searchParams));
    const match = /^\/(forms|pages)\/([^/]+)\/(subscriptions|entries)$/.exec(url.pathname);
    const id = decodeURIComponent(match?.[2] ?? '');
    const known = forms.find((form) => (match?.[1] === 'forms' ? form.id : form.page.id) === id);
    if (!match || !known) return reply(response, 404, { code: 'not-here', detail: 'There is no such form or page.' });
    if (match[3] === 'entries' && match[1] === 'forms' && request.method === 'GET')
      return reply(response, 200, this.held(known, url.searchParams));
    if (match[3] !== 'subscriptions' || request.method !== 'POST')
      return reply(response, 405, { code: 'method', detail: 'Not like this.' });
    const body = await readJson(request);
    const topic = match[1] === 'forms' ? `form:${id}` : `page:${id}`;
    const made = this.subscribers.add('ads', [topic], null, body.url, body.secret);
    if (!made) return reply(response, 422, { code: 'shape', detail: 'A url and a secret are needed.' });
    reply(response, 201, { id: made.id });
  }

  /** Entries after a cursor, oldest first, as far as they are still held. */
  private held(form: AdForm, query: URLSearchParams) {
    const { entries, adsHoldDays } = this.world.state;
    const kept = entries
      .filter((entry) => entry.formId === form.id && Date.parse(entry.at) > Date.now() - adsHoldDays * DAY)
      .sort((a, b) => cursorOf(a).localeCompare(cursorOf(b)));
    if (query.get('newest')) {
      const newest = kept.slice(-1);
      return {
        entries: newest.map((formEntry) => this.told(form, formEntry)),
        cursor: newest[0] ? cursorOf(newest[0]) : '',
        held: { count: newest.length, firstExpiresAt: null },
      };
    }
    const after = query.get('after') ?? '';
    const left = kept.filter((formEntry) => cursorOf(formEntry) > after);
    const batch = left.slice(0, Math.max(0, Math.min(500, Number(query.get('limit') ?? 100))));
    return {
      entries: batch.map((formEntry) => this.told(form, formEntry)),
      cursor: batch.length > 0 ? cursorOf(batch.at(-1)!) : after,
      held: {
        count: left.length,
        firstExpiresAt: left[0] ? new Date(Date.parse(left[0].at) + adsHoldDays * DAY).toISOString() : null,
      },
    };
  }

  /** A customer sends the form in. Gives the pushes it caused. */
  async fillIn(form: AdForm, answers: Record<string, string>): Promise<Push[]> {
    const entry: FormEntry = { id: randomUUID(), formId: form.id, at: new Date().toISOString(), answers };
    this.world.state.entries.push(entry);
    this.world.changed();
    return this.subscribers.tell(
      {
        service: 'ads',
        topics: [`form:${form.id}`, `page:${form.page.id}`],
        event: 'form.entry',
        eventId: entry.id,
        subject: form.name,
        value: { type: 'form.entry', entry: this.told(form, entry) },
      },
      this.world.state.trouble.adsSendTwice,
    );
  }

  /** Another form of the same page, as an advertiser would copy one. */
  copyForm(form: AdForm, name: string): AdForm {
    const made = { ...structuredClone(form), id: `form-${randomUUID().slice(0, 8)}`, name, live: true };
    this.world.state.forms.push(made);
    this.world.changed();
    return made;
  }

  private told(form: AdForm, entry: FormEntry) {
    return {
      id: entry.id,
      submittedAt: entry.at,
      form: { id: form.id, name: form.name },
      page: form.page,
      ad: form.ad,
      hidden: form.hidden,
      answers: form.questions.flatMap((question) => {
        const value = entry.answers[question.key] ?? '';
        const answer = { key: question.key, label: question.kind === 'tick' ? 'Consent' : question.label, value };
        // The wording that stood beside the tick travels with it: it is the evidence.
        return question.kind === 'tick'
          ? [answer, { key: `${question.key}_wording`, label: 'Consent wording', value: question.label }]
          : [answer];
      }),
    };
  }
}

const cursorOf = (entry: FormEntry): string => `${entry.at}~${entry.id}`;
